/** What is kept of posts that nobody signed. */
import { expect, test } from 'vitest';
import { createRefusedBudget } from './refusedBudget';

const HOUR = 3_600_000;

test('however many are sent and however large, what is kept of an hour has an end, and is told of once', () => {
  let now = 0;
  const budget = createRefusedBudget(() => now);
  const sent = (client: string, bytes: number, n: number) => {
    const kept = { whole: 0, last: 0, not: 0, bytes: 0 };
    for (let i = 0; i < n; i++) {
      const how = budget.keep('chn', client, bytes);
      kept[how] += 1;
      if (how === 'whole') kept.bytes += bytes;
    }
    return kept;
  };
  expect(sent('198.51.100.7', 290_000, 100)).toEqual({ whole: 17, last: 1, not: 82, bytes: 4_930_000 });
  // Whoever posts from elsewhere is not told off for it, until the channel has had enough.
  expect(sent('198.51.100.8', 200, 1500).whole).toBe(1500);
  let bytes = 0;
  for (let n = 0; n < 60; n++) bytes += sent(`203.0.113.${n}`, 100_000, 60).bytes;
  expect(bytes).toBeLessThan(15_000_000);
  now = HOUR;
  expect(sent('198.51.100.7', 290_000, 5).whole).toBe(5);
});

test('where the disk runs out, what nobody signed is not kept at all', () => {
  let room = 10e9;
  const budget = createRefusedBudget(
    () => 0,
    () => room,
  );
  expect(budget.keep('chn', '198.51.100.7', 100)).toBe('whole');
  room = 100e6;
  expect(budget.keep('chn', '198.51.100.7', 100)).toBe('not');
});
