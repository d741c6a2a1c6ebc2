/** Stored rows of the engine's own work. */
import { define, orNull, type RowOf, text, whole } from './definition';

/** What the engine works through, each a table of its own. */
export type QueueName = 'inbound' | 'sends' | 'fallbacks' | 'events' | 'runs' | 'reviews';

/** An item at which Windgap itself failed, and what a person decided of it. */
export const failedWork = define('failed_work', ['queue', 'item_id'], {
  queue: text<QueueName>(),
  item_id: text(),
  /** In a row. */
  failures: whole(),
  reason: text(),
  first_at: whole(),
  last_at: whole(),
  /** Since when it is not tried any more; null while it is. */
  aside_at: orNull(whole()),
  ended_at: orNull(whole()),
  ended_by: orNull(text()),
  ended_how: orNull(text<'processed again' | 'dropped'>()),
});
export type FailedWorkRow = RowOf<typeof failedWork>;
