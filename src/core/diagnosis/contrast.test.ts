import { describe, expect, test } from 'vitest';
import { type Compared, contrast } from './contrast';

/** Numbers that look random and are the same each time (mulberry32). */
function randomFrom(seed: number) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

const VALUES: Record<string, readonly string[]> = {
  country: ['GB', 'GB', 'GB', 'SE', 'FR', 'DE', 'NO'],
  range: ['+4477009', '+4479001', '+4670174', '+3363998', '+4915112', '+4741000'],
  length: ['1 part', '1 part', '1 part', '2 parts', '3 parts'],
  encoding: ['plain', 'plain', 'plain', 'unicode'],
  media: ['none', 'none', 'none', 'none', 'picture'],
  template: ['none', 'none', 'stoppage', 'passage', 'payment'],
  sender: ['+442079460114', '+442079460114', '+441632960001'],
  app: ['Lockbook', 'Lockbook', 'Weirdesk', 'people'],
  hour: Array.from({ length: 24 }, (_, hour) => String(hour)),
};
const ATTRIBUTES = Object.keys(VALUES);
const DAY = 86_400_000;

/** Messages of a week; one fails where `failing` says so, most of the time, and seldom otherwise. */
function messages(seed: number, count: number, failing: (each: Compared) => boolean, noise = 0.01): Compared[] {
  const random = randomFrom(seed);
  const pick = (values: readonly string[]) => values[Math.floor(random() * values.length)] as string;
  return Array.from({ length: count }, (_, n) => {
    const at = Math.floor((n / count) * 7 * DAY);
    const is = Object.fromEntries(ATTRIBUTES.map((name) => [name, pick(VALUES[name] ?? [])]));
    const each = { at, is, failed: false };
    return { ...each, failed: failing(each) ? random() < 0.95 : random() < noise };
  });
}

describe('twenty made-up splits', () => {
  const planted = ATTRIBUTES.flatMap((attribute) =>
    [...new Set(VALUES[attribute])].slice(-2).map((value) => [attribute, value] as const),
  ).concat([
    ['since', '4'],
    ['since', '6'],
  ]);
  test('there are twenty, and at least eighteen are found first', () => {
    expect(planted).toHaveLength(20);
    const found = planted.filter(([attribute, value], seed) => {
      const isPlanted = (each: Compared) =>
        attribute === 'since' ? each.at >= Number(value) * DAY : each.is[attribute] === value;
      const said = contrast(messages(seed + 1, 600, isPlanted));
      const first = said.found === 'split' ? said.splits[0] : undefined;
      return (
        first?.attribute === attribute &&
        (attribute === 'since' ? Math.abs(Number(first.value) - Number(value) * DAY) < DAY / 20 : first.value === value)
      );
    });
    expect(found.length).toBeGreaterThanOrEqual(18);
  });
});

test('nothing splits what fails at random, ninety-nine times of a hundred', () => {
  const said = Array.from({ length: 100 }, (_, seed) => contrast(messages(seed + 500, 400, () => false, 0.1)).found);
  expect(said.filter((found) => found !== 'nothing').length).toBeLessThanOrEqual(1);
});

test('says since when, where those with the value arrived before', () => {
  const from = 5 * DAY;
  const said = contrast(messages(7, 800, ({ at, is }) => is.country === 'FR' && at >= from, 0));
  expect(said.found === 'split' && said.splits[0]).toMatchObject({
    attribute: 'country',
    value: 'FR',
    othersFailed: 0,
  });
  const since = said.found === 'split' ? (said.splits[0]?.since ?? 0) : 0;
  expect(Math.abs(since - from)).toBeLessThan(DAY / 2);
});

test('a handful tells nothing', () => {
  expect(contrast(messages(1, 4, () => true))).toMatchObject({ found: 'too few' });
  expect(contrast([])).toEqual({ found: 'too few', failed: 0, good: 0 });
});

test('a chance is that of Fisher’s exact test, for one value against all others', () => {
  // 3 of 3 against 0 of 3 is 1 in 20 (Fisher 1935); 6 messages and 2 values were looked at.
  const six = [true, true, true, false, false, false].map((failed, at) => ({
    at: 1,
    failed,
    is: { x: failed ? 'a' : 'b', n: String(at) },
  }));
  expect(contrast(six).found).toBe('nothing');
  const more = Array.from({ length: 24 }, (_, n) => ({ at: 1, failed: n < 12, is: { x: n < 12 ? 'a' : 'b' } }));
  const said = contrast(more);
  // 1 / C(24, 12), times the value that any failed with, and 24 moments of all and of those with it.
  expect(said.found === 'split' && said.splits[0]?.chance).toBeCloseTo((1 + 48) / 2_704_156, 10);
});
