/** Stored rows about contacts: what is known of them and what they agreed to. */
import type { ConsentWay } from '../core/consent/ways';
import type { Group } from '../core/contacts/audience';
import type { ImportPlan } from '../core/contacts/importing';

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
  /** `retracted`: what was claimed before is taken back, and nothing is known again. */
  what: 'given' | 'withdrawn' | 'retracted';
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

export interface AudienceRow {
  id: string;
  name: string;
  conditions: Group;
  created_at: number;
  changed_at: number;
}

export interface ImportRow {
  id: string;
  name: string;
  /** In the folder of imports. */
  file: string;
  plan: ImportPlan;
  state: 'examining' | 'preview' | 'running' | 'done' | 'cancelled' | 'failed' | 'undone';
  lines: number;
  done: number;
  created: number;
  merged: number;
  unchanged: number;
  refused: number;
  created_at: number;
  by: string;
  ended_at: number | null;
  problem: string | null;
}

export interface ImportLineRow {
  import_id: string;
  line: number;
  outcome: 'created' | 'merged' | 'unchanged' | 'refused';
  reason: string | null;
  contact_id: string | null;
  /** What a merged contact was before, to undo it. */
  before: { name: string | null; attributes: Record<string, string | null>; tags: string[] } | null;
}
