/** A broadcast while it runs: what it waits for, and what became of it by time. */
import type { BroadcastRow } from '../../store/schema/rows';
import type { Sql } from '../../store/store';
import type { AppContext } from '../context';
import { readFacts } from './facts';

const DAY = 86_400_000;
const MINUTE = 60_000;
/** Bars of a chart. */
const MOST_BARS = 48;

export interface Waiting {
  for: 'time' | 'allowance';
  until: number;
  /** Of an allowance: so many a day. */
  most?: number;
}

/** When the next message over a channel is due; it costs the same for any number of people. */
export async function nextDueOver(from: Sql, id: string, channel: string): Promise<number | undefined> {
  const [row] = await from.select<{ due: number | null }>(
    `SELECT min(due_at) AS due FROM broadcast_recipients
      WHERE broadcast_id = :id AND state = 'planned' AND channel_id = :channel`,
    { id, channel },
  );
  return row?.due ?? undefined;
}

/** Why nothing leaves at the moment although there is something to send; undefined where it goes on. */
export async function waitingOf(ctx: AppContext, row: BroadcastRow, now: number): Promise<Waiting | undefined> {
  if (row.state !== 'running' && row.state !== 'scheduled') return undefined;
  const waits: Waiting[] = [];
  const { lines, lineOf } = await readFacts(ctx, ctx.store, row.definition, now);
  for (const channel of row.definition.channels) {
    const due = await nextDueOver(ctx.store, row.id, channel);
    if (due === undefined) continue;
    const line = lines.find(({ id }) => id === lineOf(channel).id);
    const allowance = row.definition.message.template && line?.allowance;
    const blocking =
      allowance && allowance.begun.length >= allowance.most
        ? [...allowance.begun].sort((a, b) => a - b)[allowance.begun.length - allowance.most]
        : undefined;
    if (blocking !== undefined && blocking + DAY > Math.max(now, due))
      waits.push({ for: 'allowance', until: blocking + DAY, most: allowance?.most });
    else if (due > now) waits.push({ for: 'time', until: due });
    // One channel has something to do, so the whole does not wait.
    else return undefined;
  }
  const underWay = await ctx.store.broadcastCounts.all({ broadcast_id: row.id, state: ['queued', 'sending'] });
  if (underWay.some(({ n }) => n > 0)) return undefined;
  return waits.sort((a, b) => a.until - b.until)[0];
}

export interface CourseBar {
  at: number;
  left: number;
  arrived: number;
  failed: number;
}

/** What left, arrived and failed, in at most so many bars of whole minutes. */
export async function courseOf(from: Sql, id: string): Promise<{ bars: CourseBar[]; step: number }> {
  // In one statement: a minute that begins between two would have no bar.
  const rows = await from.select<{
    first: number;
    last: number;
    minutes: number;
    bar: number;
    what: 'left' | 'arrived' | 'failed';
    n: number;
  }>(
    `SELECT span.first, span.last, span.minutes, (m.minute - span.first) / span.minutes AS bar, m.what, sum(m.n) AS n
       FROM broadcast_minutes m,
            (SELECT min(minute) AS first, max(minute) AS last,
                    max(1, (max(minute) - min(minute) + :most) / :most) AS minutes
               FROM broadcast_minutes WHERE broadcast_id = :id) span
      WHERE m.broadcast_id = :id GROUP BY bar, m.what`,
    { id, most: MOST_BARS },
  );
  const [span] = rows;
  if (!span) return { bars: [], step: MINUTE };
  const { first, last, minutes } = span;
  const bars = Array.from({ length: Math.floor((last - first) / minutes) + 1 }, (_, bar) => ({
    at: (first + bar * minutes) * MINUTE,
    left: 0,
    arrived: 0,
    failed: 0,
  }));
  for (const { bar, what, n } of rows) (bars[bar] as CourseBar)[what] = n;
  return { bars, step: minutes * MINUTE };
}
