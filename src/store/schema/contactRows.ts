/** Stored rows about contacts: what is known of them and what they agreed to. */

import type { ConsentWay } from '../../core/consent/ways';
import type { Group } from '../../core/contacts/audience';
import type { ImportPlan } from '../../core/contacts/importing';
import type { IdentityKind } from '../../core/identities/identityKinds';
import { define, json, orNull, type RowOf, real, text, whole } from './definition';

export const contacts = define('contacts', ['id'], {
  id: text(),
  name: orNull(text()),
  country: orNull(text()),
  created_at: whole(),
  /** Whose network the phone is on, as looked up at `carrier_at`. */
  carrier: orNull(text()),
  carrier_at: orNull(whole()),
  /** BCP 47, and where it is known from: `number` when inferred. */
  language: orNull(text()),
  language_from: orNull(text()),
  /** IANA. */
  zone: orNull(text()),
  zone_from: orNull(text()),
  /** The contact this one was merged into. */
  merged_into: orNull(text()),
  /** When they last wrote. */
  seen_at: orNull(whole()),
});
export type ContactRow = RowOf<typeof contacts>;

export const identities = define('contact_identities', ['kind', 'scope', 'value'], {
  kind: text<IdentityKind>(),
  /** The account it holds in; empty where it holds everywhere. */
  scope: text(),
  value: text(),
  contact_id: text(),
  /** Since when it is this contact’s. */
  since: whole(),
  /** `earlier`: from before this was kept. */
  source: text<'wrote' | 'sent' | 'code' | 'by-hand' | 'import' | 'earlier'>(),
  /** When somebody last wrote from it, or showed in another way that it is theirs. */
  proved_at: orNull(whole()),
  /** Why it may be somebody else’s by now, as a sentence. */
  doubt: orNull(text()),
  doubted_at: orNull(whole()),
});
export type ContactIdentityRow = RowOf<typeof identities>;

/** Telephone numbers nothing gets to at present. */
export const missedDeliveries = define('missed_deliveries', ['value'], {
  value: text(),
  times: whole(),
  first_at: whole(),
  last_at: whole(),
});

/** Whose identities were and became, in the order it happened. */
export const identityEntries = define('identity_entries', ['id'], {
  id: text(),
  kind: text<IdentityKind>(),
  scope: text(),
  value: text(),
  contact_id: text(),
  /** `moved`: to this contact from another. */
  what: text<'added' | 'moved' | 'doubted' | 'believed'>(),
  at: whole(),
  why: text(),
  by: text(),
});
export type IdentityEntryRow = RowOf<typeof identityEntries>;

export const conversations = define('conversations', ['id'], {
  id: text(),
  contact_id: text(),
  channel_id: text(),
  last_message_at: whole(),
  last_text: text(),
  last_direction: text<'in' | 'out'>(),
  unread: whole(),
  /** `quiet`: nobody has answered yet what went out by itself. `waiting`: we wrote last. */
  state: text<'quiet' | 'open' | 'waiting' | 'closed'>(),
  /** Whose it is. */
  assigned_to: orNull(text()),
  team: orNull(text()),
  last_inbound_at: orNull(whole()),
  closed_at: orNull(whole()),
  /** When the person was told that it closes soon. */
  idle_noticed_at: orNull(whole()),
});
export type ConversationRow = RowOf<typeof conversations>;

export const replyWindows = define('reply_windows', ['channel_id', 'contact_id'], {
  channel_id: text(),
  contact_id: text(),
  last_inbound_at: whole(),
});
export type ReplyWindowRow = RowOf<typeof replyWindows>;

export const contactAttributes = define('contact_attributes', ['contact_id', 'name'], {
  contact_id: text(),
  name: text(),
  value: text(),
  /** The value as a number, where it is one. */
  number: orNull(real()),
});
export type ContactAttributeRow = RowOf<typeof contactAttributes>;

export const contactTags = define('contact_tags', ['contact_id', 'tag'], {
  contact_id: text(),
  tag: text(),
});
export type ContactTagRow = RowOf<typeof contactTags>;

/** One line of the ledger: what was said, when, how, in which words, by whom. */
export const consentEntries = define('consent_entries', ['id'], {
  id: text(),
  contact_id: text(),
  way: text<ConsentWay>(),
  /** `retracted`: what was claimed before is taken back, and nothing is known again. */
  what: text<'given' | 'withdrawn' | 'retracted'>(),
  at: whole(),
  how: text<'word' | 'by-hand' | 'import' | 'web-chat' | 'api' | 'merge' | 'provider' | 'link'>(),
  wording: text(),
  by: text(),
  /** The message or import it comes from. */
  ref: orNull(text()),
});
export type ConsentEntryRow = RowOf<typeof consentEntries>;

/** What stands of one way: the last entry. */
export const contactConsents = define('contact_consents', ['contact_id', 'way'], {
  contact_id: text(),
  way: text<ConsentWay>(),
  state: text<'given' | 'withdrawn'>(),
  since: whole(),
  entry_id: text(),
});
export type ContactConsentRow = RowOf<typeof contactConsents>;

/** Addresses that an opt-in covers. */
export const identityConsents = define('identity_consents', ['kind', 'scope', 'value', 'way', 'account'], {
  kind: text<IdentityKind>(),
  scope: text(),
  value: text(),
  way: text<ConsentWay>(),
  /** The account of the platform it was said on; empty where it holds for all. */
  account: text(),
  entry_id: text(),
  since: whole(),
});
export type IdentityConsentRow = RowOf<typeof identityConsents>;

/** An address that went from one contact to another by hand, and what went with it. */
export const identityMoves = define('identity_moves', ['id'], {
  id: text(),
  kind: text<IdentityKind>(),
  scope: text(),
  value: text(),
  from_id: text(),
  to_id: text(),
  /** `split`: with its messages, to a contact made for it; `given`: with them, to another; `recycled`: another person has it from now on. */
  how: text<'split' | 'given' | 'recycled'>(),
  at: whole(),
  by: text(),
  why: text(),
  moved: json<MovedWithIdentity>(),
  undone_at: orNull(whole()),
});
export type IdentityMoveRow = RowOf<typeof identityMoves>;

export interface MovedWithIdentity {
  identity: ContactIdentityRow;
  coverage: IdentityConsentRow[];
  /** Ways that the contact it came from had declined. */
  declined: ConsentWay[];
  /** What the one it went to had said, and which of their addresses that covered. */
  before: ContactConsentRow[];
  beforeCoverage: IdentityConsentRow[];
}

export const audiences = define('audiences', ['id'], {
  id: text(),
  name: text(),
  conditions: json<Group>(),
  created_at: whole(),
  changed_at: whole(),
});
export type AudienceRow = RowOf<typeof audiences>;

export const imports = define('imports', ['id'], {
  id: text(),
  name: text(),
  /** In the folder of imports. */
  file: text(),
  plan: json<ImportPlan>(),
  state: text<'examining' | 'preview' | 'running' | 'done' | 'cancelled' | 'failed' | 'undone'>(),
  lines: whole(),
  done: whole(),
  created: whole(),
  merged: whole(),
  unchanged: whole(),
  refused: whole(),
  created_at: whole(),
  by: text(),
  ended_at: orNull(whole()),
  problem: orNull(text()),
});
export type ImportRow = RowOf<typeof imports>;

export const importLines = define('import_lines', ['import_id', 'line'], {
  import_id: text(),
  line: whole(),
  outcome: text<'created' | 'merged' | 'unchanged' | 'refused'>(),
  reason: orNull(text()),
  contact_id: orNull(text()),
  /** What a merged contact was before, to undo it. */
  before: orNull(json<{ name: string | null; attributes: Record<string, string | null>; tags: string[] }>()),
});
export type ImportLineRow = RowOf<typeof importLines>;

export const contactMerges = define('contact_merges', ['id'], {
  id: text(),
  kept_id: text(),
  gone_id: text(),
  at: whole(),
  by: text(),
  /** What both had. */
  why: text(),
  moved: json<MovedByMerge>(),
  undone_at: orNull(whole()),
});
export type ContactMergeRow = RowOf<typeof contactMerges>;

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
  /** What opt-ins covered of both. Absent in merges from before that was kept. */
  coverage?: IdentityConsentRow[];
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

export const contactsApart = define('contacts_apart', ['one_id', 'other_id'], {
  one_id: text(),
  other_id: text(),
  at: whole(),
  by: text(),
});
export type ContactsApartRow = RowOf<typeof contactsApart>;
