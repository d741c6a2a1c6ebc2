import { expect, test } from 'vitest';
import { backAfterSilence } from './silence';

const DAY = 86_400_000;
const NOW = 1000 * DAY;
const missed = (times: number, first: number, last: number) => ({
  times,
  firstAt: NOW - first * DAY,
  lastAt: NOW - last * DAY,
});

test.each([
  ['long silent, and tried more than once over a month', missed(3, 65, 20), true],
  ['exactly as long as a number rests at least', missed(2, 45, 15), true],
  ['silent for less than that', missed(5, 44, 5), false],
  ['tried once only', missed(1, 90, 90), false],
  ['tried often within a week', missed(9, 90, 83), false],
])('%s', (_, facts, doubted) => {
  expect(backAfterSilence(facts, NOW) !== undefined).toBe(doubted);
});
