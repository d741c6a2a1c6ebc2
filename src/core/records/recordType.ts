/** Kinds of record an app has, as its profile describes them. */

/** Ways to keep a record that a profile allows for. */
export type RecordWay = 'upsert' | 'create' | 'create-if-none';

export interface RecordField {
  name: string;
  label: string;
  required: boolean;
  /** Filled when a record is made; one that is there keeps its own. */
  onlyNew: boolean;
  longest?: number;
  initial: string;
}

export interface RecordType {
  id: string;
  label: string;
  fields: RecordField[];
  ways: RecordWay[];
  countable: boolean;
  findable: boolean;
  /** A request made twice with one reference makes one record. */
  honoursReference: boolean;
}
