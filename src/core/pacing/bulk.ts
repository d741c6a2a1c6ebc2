/**
 * How messages to many yield to messages to one. A broadcast may fill a line for hours; a reply, a one-time code or a notice
 * overtakes everything of it that is not on the wire yet, and finds a turn that was kept free.
 */

/** The share of a line's pace that bulk may take; the rest is the reserve. */
export const BULK_SHARE = 0.95;

/** What lies below it in the outbox is bulk. Replies of people and apps are above, codes above those. */
export const BULK_PRIORITY = 0;
export const REPLY_PRIORITY = 10;
/** Somebody stands there and waits for it. */
export const CODE_PRIORITY = 20;

export const isBulk = (priority: number): boolean => priority < REPLY_PRIORITY;

export const bulkPace = (perSecond: number): number => perSecond * BULK_SHARE;

/** Of the conversations a platform lets one begin in a day, those that bulk may begin. */
export const bulkAllowance = (most: number): number => Math.floor(most * BULK_SHARE);

/** Of so many at once one place stays free of bulk, where there is more than one. */
export const bulkAtOnce = (atOnce: number): number => (atOnce > 1 ? atOnce - 1 : atOnce);

/** Puts an entry behind all that are not bulk and before all bulk that has not begun, or at the end if it is bulk itself. */
export function queueUp<Entry>(queue: Entry[], entry: Entry, yields: (other: Entry) => boolean): void {
  const behind = yields(entry) ? -1 : queue.findIndex(yields);
  if (behind === -1) queue.push(entry);
  else queue.splice(behind, 0, entry);
}
