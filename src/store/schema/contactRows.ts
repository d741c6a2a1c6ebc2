/** Stored rows about contacts: what is known of them and what they agreed to. */
import type { ConsentWay } from '../../core/consent/ways';
import type { Group } from '../../core/contacts/audience';
import type { ImportPlan } from '../../core/contacts/importing';

export interface ContactRow {
  id: string;
  name: string | null;
  country: string | null;
  created_at: number;
  /** Whose network the phone is on, as looked up at `carrier_at`. */
  carrier: string | null;
  carrier_at: number | null;
  /** BCP 47, and where it is known from: `number` when inferred. */
  language: string | null;
  language_from: string | null;
  /** IANA. */
  zone: string | null;
  zone_from: string | null;
  /** The contact this one was merged into. */
  merged_into: string | null;
  /** When they last wrote. */
  seen_at: number | null;
}

export interface ContactIdentityRow {
  kind: IdentityKind;
  value: string;
  contact_id: string;
}

/** A phone reached by text or chat, or a visitor of a web chat. */
export type IdentityKind = 'phone' | 'visitor';

export interface ConversationRow {
  id: string;
  contact_id: string;
  channel_id: string;
  last_message_at: number;
  last_text: string;
  last_direction: 'in' | 'out';
  unread: number;
  /** `quiet`: nobody has answered yet what went out by itself. `waiting`: we wrote last. */
  state: 'quiet' | 'open' | 'waiting' | 'closed';
  /** Whose it is. */
  assigned_to: string | null;
  team: string | null;
  last_inbound_at: number | null;
  closed_at: number | null;
  /** When the person was told that it closes soon. */
  idle_noticed_at: number | null;
}

export interface ReplyWindowRow {
  channel_id: string;
  contact_id: string;
  last_inbound_at: number;
}

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
  how: 'word' | 'by-hand' | 'import' | 'web-chat' | 'api' | 'merge';
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

export interface ContactMergeRow {
  id: string;
  kept_id: string;
  gone_id: string;
  at: number;
  by: string;
  /** What both had. */
  why: string;
  moved: MovedByMerge;
  undone_at: number | null;
}

/** What went from one contact to the other, and what stood before. */
export interface MovedByMerge {
  identities: ContactIdentityRow[];
  conversation?: ConversationRow;
  windows: ReplyWindowRow[];
  filled: Partial<Pick<ContactRow, 'name' | 'language' | 'language_from' | 'zone' | 'zone_from'>>;
  attributes: ContactAttributeRow[];
  tags: string[];
  /** Of the one that stays. */
  consents: ContactConsentRow[];
  /** By id, what hung on the one that goes. Absent in merges from before it was moved. */
  runs?: string[];
  todos?: string[];
  notes?: string[];
  /** How the conversation that stays stood. */
  stood?: ConversationStanding;
}

export type ConversationStanding = Pick<
  ConversationRow,
  'state' | 'assigned_to' | 'team' | 'last_inbound_at' | 'closed_at'
>;

export interface ContactsApartRow {
  one_id: string;
  other_id: string;
  at: number;
  by: string;
}
