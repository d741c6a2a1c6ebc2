/** False alarms over ninety simulated days of ten kinds of organisations, and how soon a real stop is seen. */
import { describe, expect, test } from 'vitest';
import { judgeShare } from './share';
import { judgeSilence, type Usual, usualOf } from './silence';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** A Monday. */
const START = Date.UTC(2026, 0, 5);

/** Pseudo-random numbers that are the same in every run (mulberry32). */
function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

interface Kind {
  name: string;
  /** Messages an hour at this hour of this day, from 0; a Monday is day 0. */
  rate(day: number, hour: number): number;
}

const office = (hour: number) => (hour >= 8 && hour < 18 ? 1 : hour >= 7 && hour < 21 ? 0.25 : 0.01);
const weekday = (day: number) => day % 7 < 5;
/** Days on which nearly nobody writes, as at the turn of the year and at Easter. */
const HOLIDAYS = new Set([1, 88, 91]);
const holiday = (day: number) => (HOLIDAYS.has(day) ? 0.03 : 1);

const KINDS: readonly Kind[] = [
  { name: 'an office, closed at weekends', rate: (d, h) => (weekday(d) ? 20 : 0.2) * office(h) * holiday(d) },
  { name: 'a small office', rate: (d, h) => (weekday(d) ? 2 : 0.05) * office(h) * holiday(d) },
  {
    name: 'a shop, busy on Saturdays',
    rate: (d, h) => (d % 7 === 5 ? 40 : d % 7 === 6 ? 1 : 15) * office(h) * holiday(d),
  },
  { name: 'a clinic, mornings', rate: (d, h) => (weekday(d) && h >= 7 && h < 12 ? 30 : 0.5) * holiday(d) },
  { name: 'a line open day and night', rate: (_, h) => 6 + 4 * Math.sin(((h - 8) / 24) * 2 * Math.PI) },
  { name: 'a large line', rate: (d, h) => (weekday(d) ? 400 : 150) * office(h) * holiday(d) },
  { name: 'a club, evenings and weekends', rate: (d, h) => (h >= 18 && h < 23 ? 8 : weekday(d) ? 0.1 : 3) },
  {
    name: 'one with campaigns',
    rate: (d, h) => (weekday(d) ? 5 : 0.5) * office(h) * (d % 17 === 4 ? 15 : d % 17 === 5 ? 4 : 1) * holiday(d),
  },
  { name: 'one that grows', rate: (d, h) => (weekday(d) ? 2 + d / 4 : 1) * office(h) * holiday(d) },
  {
    name: 'a channel that is new on day 30',
    rate: (d, h) => (d < 30 ? 0 : (weekday(d) ? 12 : 2) * office(h) * holiday(d)),
  },
];

/** Times of messages over so many days, with days that are slower or busier as a whole. */
function simulate({ rate }: Kind, days: number, seed: number): number[] {
  const next = random(seed);
  const times: number[] = [];
  for (let day = 0; day < days; day++) {
    const level = Math.exp((next() + next() + next() - 1.5) * 0.6);
    for (let hour = 0; hour < 24; hour++) {
      let left = rate(day, hour) * level;
      for (let at = 0; ; ) {
        at += -Math.log(1 - next()) / Math.max(left, 1e-9);
        if (at >= 1) break;
        times.push(START + day * DAY + (hour + at) * HOUR);
      }
      left = 0;
    }
  }
  return times;
}

/** Alarms as the engine would give them, which looks every quarter of an hour; one silence is one alarm. */
function alarms(times: readonly number[], from: number, until: number): number {
  const byHour = new Map<number, number>();
  let place = 0;
  let last = 0;
  let silent = false;
  let found = 0;
  let usual: Usual | undefined;
  for (let now = START; now < until; now += HOUR / 4) {
    for (; place < times.length && (times[place] as number) <= now; place++) {
      last = times[place] as number;
      const hour = Math.floor(last / HOUR);
      byHour.set(hour, (byHour.get(hour) ?? 0) + 1);
    }
    if ((now - START) % DAY === 0 || now === from) usual = usualOf(byHour, now);
    if (now < from || last === 0) continue;
    const is = judgeSilence(usual, { byHour, last }, now).state === 'silent';
    if (is && !silent) found += 1;
    silent = is;
  }
  return found;
}

describe('what people write', () => {
  test.each(KINDS)('$name: fewer than one false alarm a month', (kind) => {
    const rounds = [11, 12, 13];
    const all = rounds.map((seed) => alarms(simulate(kind, 90, seed), START, START + 90 * DAY));
    console.log(`${kind.name}: ${all.join(', ')} false alarms in 90 days`);
    for (const each of all) expect(each).toBeLessThan(3);
  });

  test.each(KINDS.filter(({ name }) => !/small|club|campaigns/.test(name)))(
    '$name: a stop at noon is seen the same day',
    (kind) => {
      // A Tuesday in the eleventh week.
      const noon = START + 71 * DAY + 12 * HOUR;
      const before = simulate(kind, 90, 21).filter((at) => at < noon);
      const late = /clinic/.test(kind.name) ? 20 : 6;
      expect(alarms(before, noon, noon + late * HOUR)).toBe(1);
    },
  );

  test('of what is new, or of what nobody uses, it cannot tell', () => {
    const young = new Map([[Math.floor(START / HOUR), 500]]);
    expect(usualOf(young, START + 10 * DAY)).toBeUndefined();
    expect(usualOf(new Map(), START)).toBeUndefined();
    expect(judgeSilence(undefined, { byHour: young, last: START }, START)).toEqual({ state: 'cannot tell' });
  });
});

describe('receipts', () => {
  const texts = (n: number, share: number, next: () => number) => Array.from({ length: n }, () => next() < share);

  test('that stop for a country are seen within thirty messages, and mostly within fifteen', () => {
    for (const share of [0.6, 0.75, 0.9, 0.98]) {
      const next = random(Math.round(share * 1000));
      for (let round = 0; round < 50; round++) {
        const before = texts(200, share, next);
        const missing = Array.from({ length: 30 }, () => false);
        const seen = missing.findIndex((_, n) => judgeShare([...before, ...missing.slice(0, n + 1)]).state === 'fell');
        expect(seen).toBeGreaterThanOrEqual(0);
      }
    }
  });

  test('that come as usual are hardly ever missed: none in a hundred thousand looks at each of four shares', () => {
    for (const share of [0.4, 0.7, 0.9, 0.99]) {
      const next = random(Math.round(share * 777));
      const stream = texts(100_000, share, next);
      let found = 0;
      for (let end = 300; end < stream.length; end += 5)
        if (judgeShare(stream.slice(end - 300, end)).state === 'fell') found += 1;
      expect(found).toBe(0);
    }
  });

  test('of too few it cannot tell, and where they were never usual nothing is missed', () => {
    expect(judgeShare([])).toEqual({ state: 'cannot tell' });
    expect(judgeShare(Array.from({ length: 55 }, () => true))).toEqual({ state: 'cannot tell' });
    expect(judgeShare(Array.from({ length: 200 }, (_, n) => n % 10 === 0))).toEqual({ state: 'cannot tell' });
  });
});
