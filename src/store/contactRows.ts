/** Stored rows about contacts: what is known of them and what they agreed to. */
import type { ConsentWay } from '../core/consent/ways';

export interface ContactAttributeRow {
  contact_id: string;
  name: string;
  value: string;
  /** The value as a number, where it is one. */
  number: number | null;
}

export interface ContactTagRow {
  contact_id: string;
  tag: string;
}

/** One line of the ledger: what was said, when, how, in which words, by whom. */
export interface ConsentEntryRow {
  id: string;
  contact_id: string;
  way: ConsentWay;
  what: 'given' | 'withdrawn';
  at: number;
  how: 'word' | 'by-hand' | 'import' | 'web-chat' | 'api';
  wording: string;
  by: string;
  /** The message or import it comes from. */
  ref: string | null;
}

/** What stands of one way: the last entry. */
export interface ContactConsentRow {
  contact_id: string;
  way: ConsentWay;
  state: 'given' | 'withdrawn';
  since: number;
  entry_id: string;
}
