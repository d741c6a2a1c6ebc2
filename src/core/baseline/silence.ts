/**
 * Silence as a signal: how many messages are usual by hour and day of the week, and whether so long a time without any
 * is more than chance. A day may be slow as a whole, so the usual number of a day is itself uncertain (gamma-mixed
 * Poisson, which gives the negative binomial), and the more so the more the days before differed.
 */

const HOUR = 3_600_000;
const HOURS_OF_DAY = 24;
const HOURS_OF_WEEK = 7 * HOURS_OF_DAY;
const DAY = HOURS_OF_DAY * HOUR;

/** So much of the past is looked at. */
export const LOOKED_BACK_DAYS = 28;
/** Nothing is called usual of what has not been there for so long. */
const KNOWN_DAYS = 14;
/** A day counts as at most so many usual days: one campaign makes no other day's usual. */
const MOST_OF_A_DAY = 2;
/** How much a single hour of the week leans on the same hour of other days of its kind. */
const LEANS = 2;
/** The surest that the level of a day is ever taken to be: shape of the gamma distribution. */
const SUREST = 5;
const LEAST_SURE = 0.5;
/** What has come in so long before a silence says how busy this day is. */
const LEVEL_BEFORE = 12 * HOUR;
/** What is usual is taken to be a little less: it was learnt from a few weeks. */
const LESS_THAN_LEARNT = 0.8;
/** A silence that comes by chance more often than on one day in so many is not said. */
const DAYS_APART = 2000;
/** A silence shorter than this is said of nobody, whatever is usual: providers pause for moments. */
const SHORTEST = 10 * 60_000;

export type Silence =
  /** Too new or too seldom used to tell. */
  | { state: 'cannot tell' }
  | { state: 'usual' }
  /** `days`: on one day in so many there is so long a silence by chance. */
  | { state: 'silent'; since: number; expected: number; days: number };

export interface Seen {
  /** Messages by hour since 1970; hours without any may be left out. */
  byHour: ReadonlyMap<number, number>;
  /** When the last one came, epoch milliseconds. */
  last: number;
}

/** Times are epoch milliseconds. `offset`: milliseconds that local time is ahead of UTC, as days of the week are local. */
export function judgeSilence(usual: Usual | undefined, { byHour, last }: Seen, now: number, offset = 0): Silence {
  if (!usual) return { state: 'cannot tell' };
  if (now - last < SHORTEST) return { state: 'usual' };
  const missed = expectedBetween(usual.byHourOfWeek, last, now, offset);
  const came = countBetween(byHour, last - LEVEL_BEFORE, last);
  const usuallyCame = expectedBetween(usual.byHourOfWeek, last - LEVEL_BEFORE, last, offset);
  // The level of the day as far as it is known by now: a gamma distribution, narrower with all that has come.
  const shape = usual.shape + came;
  const rate = usual.shape + usuallyCame;
  const chance = (rate / (rate + missed * LESS_THAN_LEARNT)) ** shape;
  // Every message is followed by a silence, and each may be a long one.
  const perDay = Math.max(1, sum(usual.byHourOfWeek) / 7);
  const days = 1 / (chance * perDay);
  return days > DAYS_APART ? { state: 'silent', since: last, expected: missed, days } : { state: 'usual' };
}

/** By hours: of the hour in which the time ends all that is known. */
function countBetween(byHour: ReadonlyMap<number, number>, from: number, until: number): number {
  let count = 0;
  for (let hour = Math.floor(from / HOUR) + 1; hour <= Math.floor(until / HOUR); hour++) count += byHour.get(hour) ?? 0;
  return count;
}

export interface Usual {
  /** Messages an hour, by hour of the week from Thursday 00:00 local time, as the epoch began. */
  byHourOfWeek: readonly number[];
  shape: number;
}

/** What is usual, from the whole days before today; undefined where there are too few. */
export function usualOf(byHour: ReadonlyMap<number, number>, now: number, offset = 0): Usual | undefined {
  const local = (hour: number) => hour + Math.round(offset / HOUR);
  const today = Math.floor((now + offset) / DAY);
  const firstHour = Math.min(...byHour.keys());
  if (!Number.isFinite(firstHour)) return undefined;
  const first = Math.max(Math.floor(local(firstHour) / HOURS_OF_DAY) + 1, today - LOOKED_BACK_DAYS);
  const days = today - first;
  if (days < KNOWN_DAYS) return undefined;
  const counts = Array.from({ length: days }, () => new Array<number>(HOURS_OF_DAY).fill(0));
  for (const [hour, n] of byHour) {
    const day = Math.floor(local(hour) / HOURS_OF_DAY) - first;
    const row = counts[day];
    if (row) row[local(hour) % HOURS_OF_DAY] = n;
  }
  const isWeekend = (day: number) => [0, 6].includes((day + first + 4) % 7);
  const totals = counts.map((row) => row.reduce((sum, n) => sum + n, 0));
  const typical = (weekend: boolean) => median(totals.filter((_, day) => isWeekend(day) === weekend));
  const level = [typical(false), typical(true)] as const;
  // What one campaign or outage did is not what is usual.
  const scaled = counts.map((row, day) => {
    const most = Math.max(1, MOST_OF_A_DAY * (level[isWeekend(day) ? 1 : 0] ?? 0));
    const total = totals[day] ?? 0;
    return total > most ? row.map((n) => (n * most) / total) : row;
  });
  const byHourOfWeek = Array.from({ length: HOURS_OF_WEEK }, (_, place) => {
    const [weekday, hour] = [Math.floor(place / HOURS_OF_DAY), place % HOURS_OF_DAY];
    const same = scaled.filter((_, day) => (day + first) % 7 === weekday);
    const alike = scaled.filter((_, day) => isWeekend(day) === [2, 3].includes(weekday));
    // When in the day they come is much the same on days of a kind; how many come is each weekday’s own.
    const shape = sum(alike.map((row) => row[hour] ?? 0)) / Math.max(1, sum(alike.map(sum)));
    const lean = shape * mean(same.map(sum));
    return (sum(same.map((row) => row[hour] ?? 0)) + LEANS * lean) / (same.length + LEANS);
  });
  return { byHourOfWeek, shape: shapeOf(scaled.map(sum), byHourOfWeek, first) };
}

/** How much the levels of whole days differ from what is usual of them, beyond what counting alone explains. */
function shapeOf(totals: readonly number[], byHourOfWeek: readonly number[], first: number): number {
  const expected = totals.map((_, day) => {
    const from = ((day + first) % 7) * HOURS_OF_DAY;
    return sum(byHourOfWeek.slice(from, from + HOURS_OF_DAY));
  });
  const pairs = totals.flatMap((total, day) =>
    (expected[day] ?? 0) > 0 ? [[total, expected[day] as number] as const] : [],
  );
  const excess = mean(pairs.map(([total, mu]) => ((total - mu) ** 2 - mu) / mu ** 2));
  return Math.min(SUREST, Math.max(LEAST_SURE, excess > 0 ? 1 / excess : SUREST));
}

function expectedBetween(byHourOfWeek: readonly number[], from: number, until: number, offset: number): number {
  let total = 0;
  for (let at = from; at < until; ) {
    const hour = Math.floor((at + offset) / HOUR);
    const end = Math.min(until, (hour + 1) * HOUR - offset);
    total += ((byHourOfWeek[hour % HOURS_OF_WEEK] ?? 0) * (end - at)) / HOUR;
    at = end;
  }
  return total;
}

const sum = (values: readonly number[]) => values.reduce((all, value) => all + value, 0);
const mean = (values: readonly number[]) => (values.length === 0 ? 0 : sum(values) / values.length);

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}
