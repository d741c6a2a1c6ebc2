import { expect, test } from 'vitest';
import { wordsOfLength } from './length';

test.each([
  [0, 'less than a second'],
  [999, 'less than a second'],
  [1000, '1 second'],
  [61_000, '1 minute 1 second'],
  [3_600_000, '1 hour'],
  [3 * 86_400_000 + 2 * 3_600_000 + 59 * 60_000, '3 days 2 hours'],
  [86_400_000 + 59 * 60_000, '1 day'],
])('%d ms: %s', (ms, words) => {
  expect(wordsOfLength(ms)).toBe(words);
});
