/** What goes on, in figures: hour by hour, by channel, country and cause, and what waits now. Each leads to its rows. */

import { countryName } from '../../core/addresses/display';
import { HOSTED_KINDS } from '../../core/connect/channelKinds';
import { type CauseCode, cause } from '../../core/delivery/causes';
import { forecast } from '../../core/pacing/rateLimiter';
import { timeId } from '../../store/ids';
import { type Actor, type AppContext, reachedBy, reachOf, reachValues, requireRole } from '../context';

export interface FlowBucket {
  /** Epoch milliseconds; a bucket reaches to the next. */
  at: number;
  received: number;
  delivered: number;
  /** Sent, and neither delivered nor failed so far. */
  underWay: number;
  failed: number;
}

export interface FlowRow {
  key: string;
  name: string;
  sent: number;
  delivered: number;
  read: number;
  failed: number;
}

export interface Flow {
  since: number;
  /** Milliseconds of a bucket. */
  step: number;
  buckets: FlowBucket[];
  channels: FlowRow[];
  countries: FlowRow[];
  causes: { key: CauseCode; name: string; messages: number; last: number }[];
  queues: {
    channelId: string;
    name: string;
    waiting: number;
    pace: number /** Until all of it is sent. */;
    ms: number;
    oldest: number | null;
  }[];
}

const HOUR = 3_600_000;
const SPANS = { day: { span: 24 * HOUR, step: HOUR }, week: { span: 7 * 24 * HOUR, step: 6 * HOUR } } as const;
export type FlowSpan = keyof typeof SPANS;

export async function getFlow(ctx: AppContext, actor: Actor, chosen: FlowSpan): Promise<Flow> {
  requireRole(actor, 'viewer');
  const { span, step } = SPANS[chosen];
  const reach = await reachOf(ctx.store, actor);
  const mine = reachedBy(reach, 'channel_id', 'channel');
  const now = ctx.now();
  const since = Math.floor((now - span) / step + 1) * step;
  const values = { from: timeId('msg', since), since, step, ...reachValues(reach) };
  const sums = `sum(direction = 'out') AS sent, sum(direction = 'out' AND state IN ('delivered', 'read')) AS delivered,
    sum(state = 'read') AS read, sum(direction = 'out' AND state = 'failed') AS failed`;
  const [hours, channels, countries, causes, queues] = await Promise.all([
    ctx.store.select<{ at: number; received: number; delivered: number; sent: number; failed: number }>(
      `SELECT created_at / :step * :step AS at, sum(direction = 'in') AS received, ${sums} FROM messages WHERE id >= :from AND created_at >= :since AND ${mine} GROUP BY 1 ORDER BY 1`,
      values,
    ),
    ctx.store.select<FlowRow>(
      `SELECT m.channel_id AS key, c.name, ${sums} FROM messages m JOIN channels c ON c.id = m.channel_id WHERE m.id >= :from AND m.created_at >= :since AND ${mine} GROUP BY 1 ORDER BY sent DESC`,
      values,
    ),
    ctx.store.select<Omit<FlowRow, 'name'>>(
      `SELECT coalesce(country, '') AS key, ${sums} FROM messages WHERE id >= :from AND created_at >= :since AND direction = 'out' AND ${mine} GROUP BY 1 ORDER BY sent DESC LIMIT 20`,
      values,
    ),
    ctx.store.select<{ key: CauseCode; messages: number; last: number }>(
      `SELECT cause AS key, count(*) AS messages, max(created_at) AS last FROM messages
        WHERE cause IS NOT NULL AND id >= :from AND created_at >= :since AND state = 'failed' AND ${mine} GROUP BY 1 ORDER BY 2 DESC LIMIT 12`,
      values,
    ),
    ctx.store.select<{ channelId: string; name: string; pace: number; waiting: number; oldest: number | null }>(
      `SELECT c.id AS channelId, c.name, c.pace, count(o.message_id) AS waiting, min(o.due_at) AS oldest
         FROM channels c LEFT JOIN outbox o ON o.channel_id = c.id AND o.state IN ('due', 'leased')
        WHERE c.kind NOT IN (:hosted) AND ${reachedBy(reach, 'c.id', 'channel')} GROUP BY c.id ORDER BY waiting DESC, c.name`,
      { hosted: [...HOSTED_KINDS], ...reachValues(reach) },
    ),
  ]);
  const byTime = new Map(hours.map((row) => [row.at, row]));
  const buckets: FlowBucket[] = [];
  for (let at = since; at <= now; at += step) {
    const row = byTime.get(at);
    const { received = 0, sent = 0, delivered = 0, failed = 0 } = row ?? {};
    buckets.push({ at, received, delivered, failed, underWay: sent - delivered - failed });
  }
  return {
    since,
    step,
    buckets,
    channels,
    countries: countries.map((row) => ({ ...row, name: row.key ? countryName(row.key) : 'no country' })),
    causes: causes.map((row) => ({ ...row, name: cause(row.key).title })),
    queues: queues.map((row) => ({ ...row, ms: forecast(row.waiting, row.pace) })),
  };
}
