/**
 * Counts what is sent, by whom and where to, and stops what goes beyond a limit: in the unit that writes the messages, so
 * that sixty orders at once count like sixty in a row. Every way of sending comes by here.
 */
import { LRUCache } from 'lru-cache';
import { type Destination, destinationOf } from '../../core/limits/destination';
import {
  brokenLimit,
  type Count,
  countKey,
  isRise,
  possibleRises,
  type Stop,
  type Used,
} from '../../core/limits/limits';
import { type PriceLine, priceOf } from '../../core/limits/prices';
import type { SendingStopRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, noteChanges } from '../context';
import { limitsInForce } from './settings';

const SLOT = 600_000;
const HOUR = 3_600_000;
const DAY = 86_400_000;
/** Days that tell what is usual. */
const LOOK_BACK = 14 * DAY;

const slotOf = (at: number): number => Math.floor(at / SLOT) * SLOT;

/** One text, or one code, that is about to be ordered. */
export interface Outgoing {
  actor: Pick<Actor, 'kind' | 'id' | 'name'>;
  /** E.164; a text to anything else costs nothing and is not counted. */
  recipient: string;
  parts: number;
  prices: readonly PriceLine[];
  /** Countries in which the organisation has numbers. */
  home: ReadonlySet<string>;
  /** For a code, with the visitor's address where one asked for it. */
  code?: { visitor?: string };
}

export type Judged = { goes: true } | { goes: false; stop: Stop } | { goes: false; held: Stop & { hour: number } };

/** Judges each in turn, as if those before it that may go had gone; counts those, and notes what was stopped. */
export async function countSends(unit: Unit, outgoing: readonly Outgoing[], at: number): Promise<Judged[]> {
  const counted = outgoing.map((each) => countsOf(each));
  const keys = [...new Map(counted.flat().map((count) => [countKey(count), count])).values()];
  if (keys.length === 0) return outgoing.map(() => ({ goes: true }));
  const [{ amounts, lifted }, used] = await Promise.all([limitsInForce(unit, at), readUsed(unit, keys, at)]);
  const added = new Map<string, Count>();
  const stops = new Map<string, SendingStopRow>();
  const judged: Judged[] = [];
  for (const [index, counts] of counted.entries()) {
    const { actor } = outgoing[index] as Outgoing;
    const stop = brokenLimit(counts, used, amounts, lifted);
    if (stop) {
      noteStop(stops, stop, actor.name, 0, at);
      judged.push({ goes: false, stop });
      continue;
    }
    for (const count of counts) {
      const before = used.get(countKey(count)) ?? { hour: 0, day: 0 };
      used.set(countKey(count), { hour: before.hour + count.amount, day: before.day + count.amount });
      const sum = (added.get(countKey(count))?.amount ?? 0) + count.amount;
      added.set(countKey(count), { ...count, amount: sum });
    }
    // A person who presses a button looks at what they do, and a broadcast was looked at before it began.
    const rises =
      actor.kind === 'user' || actor.kind === 'broadcast'
        ? []
        : possibleRises(counts.map(without), used, amounts, lifted);
    let held: (Stop & { hour: number }) | undefined;
    for (const rise of rises) {
      const by = rise.limit === 'rise-range' ? 'range' : 'country';
      if (isRise(rise.hour, await busiestHour(unit, by, rise.subject, at))) held = rise;
    }
    if (held) noteStop(stops, held, actor.name, 1, at);
    judged.push(held ? { goes: false, held } : { goes: true });
  }
  await writeCounts(unit, [...added.values()], at);
  await writeStops(unit, [...stops.values()]);
  return judged;
}

/** Used already holds the order. */
const without = (count: Count): Count => ({ ...count, amount: 0 });

function countsOf({ actor, recipient, parts, prices, home, code }: Outgoing): Count[] {
  const to = destinationOf(recipient);
  if (!to) return [];
  const price = priceOf(prices, to, parts);
  return [
    { by: 'recipient', subject: to.value, amount: parts },
    { by: 'range', subject: to.range, amount: parts },
    ...(isAbroad(to, home) ? [{ by: 'country' as const, subject: to.country ?? 'none', amount: parts }] : []),
    ...(actor.kind === 'app' ? [{ by: 'app' as const, subject: actor.id, amount: parts }] : []),
    { by: 'all', subject: 'all', amount: parts },
    ...(price ? [{ by: 'spend' as const, subject: price.currency, amount: price.micros }] : []),
    ...(code ? [{ by: 'codes' as const, subject: to.value, amount: 1 }] : []),
    ...(code?.visitor ? [{ by: 'visitor' as const, subject: code.visitor, amount: 1 }] : []),
  ];
}

function isAbroad({ country }: Destination, home: ReadonlySet<string>): boolean {
  return country === undefined || !home.has(country);
}

/** What was used of each in the last hour and the last day, to ten minutes. */
async function readUsed(
  unit: Pick<Unit, 'select'>,
  keys: readonly Pick<Count, 'by' | 'subject'>[],
  at: number,
): Promise<Map<string, Used>> {
  const rows = await unit.select<{ counted_by: string; subject: string; hour: number; day: number }>(
    `SELECT c.counted_by, c.subject, sum(CASE WHEN c.slot > :hour THEN c.amount ELSE 0 END) AS hour, sum(c.amount) AS day
       FROM json_each(:keys) k CROSS JOIN sending_counts c
         ON c.counted_by = k.value->>0 AND c.subject = k.value->>1 AND c.slot > :day
      GROUP BY c.counted_by, c.subject`,
    { keys: JSON.stringify(keys.map(({ by, subject }) => [by, subject])), hour: at - HOUR, day: at - DAY },
  );
  return new Map(rows.map(({ counted_by, subject, hour, day }) => [`${counted_by} ${subject}`, { hour, day }]));
}

/** The most of any hour in the two weeks before this hour, of each database; looked up once in ten minutes. */
const busiest = new WeakMap<Unit, LRUCache<string, { slot: number; most: number }>>();

async function busiestHour(unit: Unit, by: Count['by'], subject: string, at: number): Promise<number> {
  const slot = slotOf(at);
  const key = `${by} ${subject}`;
  const lately = busiest.get(unit) ?? new LRUCache({ max: 2000 });
  busiest.set(unit, lately);
  const known = lately.get(key);
  if (known?.slot === slot) return known.most;
  const [row] = await unit.select<{ most: number | null }>(
    `SELECT max(n) AS most FROM (SELECT sum(amount) AS n FROM sending_counts
        WHERE counted_by = :by AND subject = :subject AND slot > :from AND slot <= :hour GROUP BY slot / ${HOUR})`,
    { by, subject, from: at - LOOK_BACK, hour: at - HOUR },
  );
  const most = row?.most ?? 0;
  lately.set(key, { slot, most });
  return most;
}

async function writeCounts(unit: Unit, counts: readonly Count[], at: number): Promise<void> {
  if (counts.length === 0) return;
  await unit.execute(
    `INSERT INTO sending_counts (counted_by, subject, slot, amount)
       SELECT value->>0, value->>1, :slot, value->>2 FROM json_each(:counts) WHERE true
       ON CONFLICT (counted_by, subject, slot) DO UPDATE SET amount = amount + excluded.amount`,
    { slot: slotOf(at), counts: JSON.stringify(counts.map(({ by, subject, amount }) => [by, subject, amount])) },
  );
}

function noteStop(
  stops: Map<string, SendingStopRow>,
  { limit, subject }: Pick<Stop, 'subject'> & { limit: SendingStopRow['limit_name'] },
  origin: string,
  held: 0 | 1,
  at: number,
): void {
  const key = `${limit} ${subject}`;
  const before = stops.get(key)?.orders ?? 0;
  const day = Math.floor(at / DAY) * DAY;
  stops.set(key, {
    limit_name: limit,
    subject,
    day,
    orders: before + 1,
    held,
    first_at: at,
    last_at: at,
    origin_name: origin,
  });
}

async function writeStops(unit: Unit, stops: readonly SendingStopRow[]): Promise<void> {
  if (stops.length === 0) return;
  await noteChanges(
    unit,
    Math.max(...stops.map(({ last_at }) => last_at)),
    stops.map(({ limit_name }) => ['limits', limit_name]),
  );
  for (const stop of stops)
    await unit.execute(
      `INSERT INTO sending_stops (limit_name, subject, day, orders, held, first_at, last_at, origin_name)
         VALUES (:limit_name, :subject, :day, :orders, :held, :first_at, :last_at, :origin_name)
         ON CONFLICT (limit_name, subject, day) DO UPDATE SET orders = orders + excluded.orders,
           last_at = excluded.last_at, origin_name = excluded.origin_name`,
      { ...stop },
    );
}

/** Notes one stop that was decided elsewhere. */
export async function noteOneStop(
  unit: Unit,
  stop: { limit: SendingStopRow['limit_name']; subject: string },
  origin: string,
  at: number,
): Promise<void> {
  const stops = new Map<string, SendingStopRow>();
  noteStop(stops, stop, origin, 0, at);
  await writeStops(unit, [...stops.values()]);
}
