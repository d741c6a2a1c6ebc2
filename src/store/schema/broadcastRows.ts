/** Stored rows of broadcasts: what each says and where it stands, whom it goes to, and the counts of it. */
import type { BroadcastState, Hold } from '../../core/broadcast/course';
import type { BroadcastDefinition } from '../../core/broadcast/definition';
import type { LeftOutCode } from '../../core/broadcast/leftOut';
import type { BroadcastPlan } from '../../core/broadcast/summary';
import type { CauseCode } from '../../core/delivery/causes';
import type { MessageState } from '../../core/delivery/lifecycle';
import type { IdentityKind } from '../../core/identities/identityKinds';
import { define, json, orNull, type RowOf, text, whole } from './definition';

export const broadcasts = define('broadcasts', ['id'], {
  id: text(),
  name: text(),
  state: text<BroadcastState>(),
  /** One more with each change of what it says or of its state: who acts names the one they saw. */
  version: whole(),
  definition: json<BroadcastDefinition>(),
  created_at: whole(),
  created_by: text(),
  created_by_name: text(),
  changed_at: whole(),
  /** What it came to when it was planned last; null while nobody has asked. */
  plan: orNull(json<BroadcastPlan>()),
  /** Why it could not be planned. */
  plan_problem: orNull(text()),
  /** Who started it, and why although its path is not proven. */
  started_by: orNull(text()),
  started_by_name: orNull(text()),
  reason: orNull(text()),
  approved_by: orNull(text()),
  approved_by_name: orNull(text()),
  /** When the first one could leave, and when it was over. */
  started_at: orNull(whole()),
  ended_at: orNull(whole()),
  /** `first`: the first ones are on their way alone. */
  phase: text<'first' | 'all'>(),
  /** Why it is held, by itself or by somebody. */
  held: orNull(json<HeldBroadcast>()),
  /** What was known of it when somebody resumed it: it is judged by what comes after. */
  judged_from: orNull(json<JudgedFrom>()),
  /** The idempotency key an app gave, which makes one broadcast. */
  ref: orNull(text()),
  /** 1: it starts as soon as it is planned, as nobody waits who would press a button; 2: it did. */
  starts_itself: whole<0 | 1 | 2>(),
  /** The list it was given. */
  list_id: orNull(text()),
  /** An address it was shown on beforehand: who asked for it, when. */
  shown_to: orNull(json<{ to: string; at: number; by: string; messageId: string }>()),
});
export type BroadcastRow = RowOf<typeof broadcasts>;

export type HeldBroadcast = Omit<Hold, 'code'> & {
  code: Hold['code'] | 'by-hand' | 'limit';
  at: number;
  by?: string;
  /** Handed over and not answered at that moment: as many may have left after it. */
  underWay: number;
};

export interface JudgedFrom {
  sent: number;
  delivered: number;
  failed: number;
  optedOut: number;
  countries: Record<string, { known: number; failed: number }>;
}

export type RecipientState = 'left-out' | 'planned' | Exclude<MessageState, 'received'>;

/** Somebody a broadcast is for: what becomes of them, or why they get nothing. */
export const broadcastRecipients = define('broadcast_recipients', ['broadcast_id', 'seq'], {
  broadcast_id: text(),
  seq: whole(),
  /** Null for somebody of a list whom nobody knows yet. */
  contact_id: orNull(text()),
  /** What a list says of them. */
  fields: orNull(json<Record<string, string>>()),
  kind: orNull(text<IdentityKind>()),
  scope: orNull(text()),
  value: orNull(text()),
  state: text<RecipientState>(),
  /** Why they are left out, or what it failed for; empty where neither. */
  reason: text<LeftOutCode | CauseCode | ''>(),
  said: orNull(text()),
  /** Empty for somebody who is left out before a channel was chosen. */
  channel_id: text(),
  /** ISO 3166-1 alpha-2; empty where it is not known. */
  country: text(),
  due_at: orNull(whole()),
  language: orNull(text()),
  parts: orNull(whole()),
  price_micros: orNull(whole()),
  price_currency: orNull(text()),
  message_id: orNull(text()),
  replied_at: orNull(whole()),
  /** The answer they pressed. */
  pressed: orNull(text()),
  opted_out_at: orNull(whole()),
});
export type BroadcastRecipientRow = RowOf<typeof broadcastRecipients>;

/** Recipients by where they stand, kept in step by the database in the unit that changes one. */
export const broadcastCounts = define(
  'broadcast_counts',
  ['broadcast_id', 'state', 'reason', 'channel_id', 'country'],
  {
    broadcast_id: text(),
    state: text<RecipientState>(),
    reason: text(),
    channel_id: text(),
    country: text(),
    n: whole(),
  },
);
export type BroadcastCountRow = RowOf<typeof broadcastCounts>;

/** A line of the list that was given to a broadcast. */
export const broadcastPeople = define('broadcast_people', ['list_id', 'line'], {
  list_id: text(),
  line: whole(),
  address: text(),
  fields: json<Record<string, string>>(),
});
export type BroadcastPersonRow = RowOf<typeof broadcastPeople>;

/** What became of a broadcast by the minute of the epoch: left, arrived, failed; kept by the database. */
export const broadcastMinutes = define('broadcast_minutes', ['broadcast_id', 'minute', 'what'], {
  broadcast_id: text(),
  minute: whole(),
  what: text<'left' | 'arrived' | 'failed'>(),
  n: whole(),
});

/** What the messages of a broadcast cost as far as providers told, and how many they told it of; kept by the database. */
export const broadcastSpend = define('broadcast_spend', ['broadcast_id', 'currency'], {
  broadcast_id: text(),
  currency: text(),
  micros: whole(),
  n: whole(),
});

/** How many answered, opted out, or pressed which answer; kept in step by the database. */
export const broadcastAnswers = define('broadcast_answers', ['broadcast_id', 'what', 'label'], {
  broadcast_id: text(),
  what: text<'replied_at' | 'pressed' | 'opted_out_at'>(),
  /** The answer that was pressed; empty for the others. */
  label: text(),
  n: whole(),
});
