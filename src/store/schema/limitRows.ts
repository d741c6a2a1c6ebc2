/** Stored rows of what limits sending: what was counted, what was stopped, what was lifted, prices, codes. */
import type { CountedBy, LimitName } from '../../core/limits/limits';
import type { PriceLine } from '../../core/limits/prices';
import { define, json, orNull, type RowOf, text, whole } from './definition';

/** How much went to one place in ten minutes. */
export const sendingCounts = define('sending_counts', ['counted_by', 'subject', 'slot'], {
  counted_by: text<CountedBy>(),
  subject: text(),
  /** Epoch milliseconds by ten minutes. */
  slot: whole(),
  /** Parts of texts, codes, or micro-units of money. */
  amount: whole(),
});

/** What a limit stopped or held in one day (UTC). */
export const sendingStops = define('sending_stops', ['limit_name', 'subject', 'day'], {
  limit_name: text<LimitName | 'codes-unread'>(),
  subject: text(),
  day: whole(),
  /** Orders. */
  orders: whole(),
  /** Whether they were held, to be let go or dropped, and not refused. */
  held: whole<0 | 1>(),
  first_at: whole(),
  last_at: whole(),
  origin_name: orNull(text()),
});
export type SendingStopRow = RowOf<typeof sendingStops>;

export const limitLifts = define('limit_lifts', ['limit_name', 'subject'], {
  limit_name: text<LimitName | 'codes-unread'>(),
  subject: text(),
  until: whole(),
  at: whole(),
  by: text(),
});
export type LimitLiftRow = RowOf<typeof limitLifts>;

/** Prices of an account, in place of those its profile names. */
export const priceLists = define('price_lists', ['account_id'], {
  account_id: text(),
  lines: json<PriceLine[]>(),
  changed_at: whole(),
  by: text(),
});
export type PriceListRow = RowOf<typeof priceLists>;

/** A code that was texted to a number, to see whether whoever asked reads what arrives there. */
export const verificationCodes = define('verification_codes', ['id'], {
  id: text(),
  /** The app that asked; null for a visitor of a web chat. */
  app_id: orNull(text()),
  visitor_id: orNull(text()),
  recipient: text(),
  country: orNull(text()),
  range: text(),
  /** Sealed, for the hand-over and for comparing; null as soon as it opens nothing any more. */
  sealed_code: orNull(text()),
  state: text<'open' | 'confirmed' | 'expired' | 'used-up' | 'replaced'>(),
  attempts: whole(),
  created_at: whole(),
  expires_at: whole(),
  decided_at: orNull(whole()),
  message_id: text(),
});
export type VerificationCodeRow = RowOf<typeof verificationCodes>;
