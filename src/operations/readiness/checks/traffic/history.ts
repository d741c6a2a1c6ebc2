/** What came in and what was answered over the last weeks, counted once in a while for the checks of what is usual. */
import { LOOKED_BACK_DAYS } from '../../../../core/baseline/silence';
import type { AppContext } from '../../../context';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** Weeks do not change within minutes. */
const COUNT_AGAIN = HOUR;

/** By channel, how many texts came in each hour since 1970. */
export type InboundHistory = ReadonlyMap<string, ReadonlyMap<number, number>>;

const kept = new WeakMap<AppContext, { at: number; history: Promise<InboundHistory> }>();

/** Counted an hour ago at most, but for what has come since then. */
export async function inboundHistory(ctx: AppContext): Promise<InboundHistory> {
  const now = ctx.now();
  let known = kept.get(ctx);
  if (!known || now - known.at > COUNT_AGAIN || now < known.at) {
    known = { at: now, history: countedSince(ctx, now - LOOKED_BACK_DAYS * DAY) };
    kept.set(ctx, known);
    known.history.catch(() => kept.delete(ctx));
  }
  const [before, lately] = await Promise.all([known.history, countedSince(ctx, known.at - HOUR)]);
  const all = new Map<string, Map<number, number>>();
  for (const [channel, hours] of before) all.set(channel, new Map(hours));
  // The hours since then are counted whole, and so replace what was known of them.
  const whole = Math.ceil((known.at - HOUR) / HOUR);
  for (const [channel, hours] of lately) {
    const row = all.get(channel) ?? new Map<number, number>();
    for (const [hour, n] of hours) if (hour >= whole) row.set(hour, n);
    all.set(channel, row);
  }
  return all;
}

async function countedSince(ctx: AppContext, since: number): Promise<InboundHistory> {
  const rows = await ctx.store.select<{ channel: string; hour: number; n: number }>(
    `SELECT channel_id AS channel, created_at / ${HOUR} AS hour, count(*) AS n FROM messages INDEXED BY messages_created
      WHERE created_at > :since AND direction = 'in' GROUP BY 1, 2`,
    { since },
  );
  const history = new Map<string, Map<number, number>>();
  for (const { channel, hour, n } of rows) {
    const hours = history.get(channel) ?? new Map<number, number>();
    hours.set(hour, n);
    history.set(channel, hours);
  }
  return history;
}

/** By channel, when the last text came in. */
export async function lastIn(ctx: AppContext, channels: readonly string[]): Promise<ReadonlyMap<string, number>> {
  const rows = await ctx.store.select<{ channel: string; at: number | null }>(
    `SELECT c.id AS channel, (SELECT m.created_at FROM messages m WHERE m.channel_id = c.id AND m.direction = 'in' ORDER BY m.id DESC LIMIT 1) AS at
       FROM channels c WHERE c.id IN (:channels)`,
    { channels: [...channels] },
  );
  return new Map(rows.flatMap(({ channel, at }) => (at === null ? [] : [[channel, at] as const])));
}
