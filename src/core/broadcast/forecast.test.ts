import { expect, test } from 'vitest';
import { affordable } from './cost';
import { type ForecastMessage, forecastOf } from './forecast';

const NOW = Date.parse('2026-12-01T09:00:00Z');
const DAY = 86_400_000;
const HOUR = 3_600_000;
const messages = (n: number, more: Partial<ForecastMessage> = {}): ForecastMessage[] =>
  Array.from({ length: n }, () => ({ line: 'a', dueAt: NOW, turns: 1, ...more }));

test('a thousand at ten a second, of which bulk may have eight', () => {
  const { first, last = 0, bound, leaving } = forecastOf([{ id: 'a', pace: 10, reserve: 0.2 }], messages(1001), NOW);
  expect([first, leaving, bound]).toEqual([NOW, 1001, 'pace']);
  expect((last - NOW) / 1000).toBeCloseTo((1000 / 8) * 1.01, 3);
});

test('zones come one after the other, and the last waits for its time and not for its turn', () => {
  const line = { id: 'a', pace: 10, reserve: 0 };
  const all = [...messages(50, { dueAt: NOW + 8 * HOUR }), ...messages(50)];
  const { first, last = 0, hours, bound } = forecastOf([line], all, NOW);
  expect(first).toBe(NOW);
  expect(Math.round((last - NOW - 8 * HOUR) / 1000)).toBe(5);
  expect(hours.map((hour) => hour.messages)).toEqual([50, 50]);
  expect(bound).toBe('pace');
  expect(forecastOf([line], [...messages(1), ...messages(1, { dueAt: NOW + HOUR })], NOW).bound).toBe('time');
});

test('an allowance of a thousand a day takes three days for 2,500, and what began yesterday counts', () => {
  const line = { id: 'a', pace: 100, reserve: 0, allowance: { most: 1000, begun: [] as number[] } };
  const { last = 0, bound } = forecastOf([line], messages(2500, { starts: true }), NOW);
  expect([Math.floor((last - NOW) / DAY), bound]).toEqual([2, 'allowance']);
  const begun = Array.from({ length: 1000 }, (_, n) => NOW - DAY / 2 + n);
  expect(forecastOf([{ ...line, allowance: { most: 1000, begun } }], messages(1, { starts: true }), NOW).first).toBe(
    NOW + DAY / 2,
  );
});

test('whoever would only have a turn when it is over is told by place, and takes no turn', () => {
  const line = { id: 'a', pace: 1, reserve: 0 };
  const { leaving, tooLate } = forecastOf([line], messages(20, { validUntil: NOW + 10_000 }), NOW);
  expect([leaving, tooLate]).toEqual([10, [10, 11, 12, 13, 14, 15, 16, 17, 18, 19]]);
});

test('what begins no conversation waits for no allowance', () => {
  const line = { id: 'a', pace: 100, reserve: 0, allowance: { most: 10, begun: [] } };
  expect(forecastOf([line], messages(100), NOW).bound).toBe('pace');
});

test('two broadcasts take turns over one line from the moment both wait', () => {
  const line = { id: 'a', pace: 1.01, reserve: 0 };
  const other = { line: 'a', broadcast: 'b', dueAt: NOW, turns: 1, count: 30 };
  const lastOf = (n: number, dueAt: number, count: number) =>
    Math.round(((forecastOf([line], messages(n, { dueAt }), NOW, [{ ...other, count }]).last ?? 0) - NOW) / 1000);
  expect(lastOf(10, NOW, 30)).toBe(19);
  expect(lastOf(10, NOW + 20_000, 30)).toBe(39);
  expect(lastOf(10, NOW + 60_000, 30)).toBe(69);
  expect(lastOf(30, NOW, 10)).toBe(39);
});

test('long texts on a trunk take a turn for each part', () => {
  const { last = 0 } = forecastOf([{ id: 'a', pace: 10, reserve: 0 }], messages(11, { turns: 3 }), NOW);
  expect(last - NOW).toBeCloseTo(3030, 6);
});

test('a balance is what others were not promised and the reserve does not hold', () => {
  const balance = { micros: 100_000_000, currency: 'EUR' };
  expect(affordable(balance, 50_000_000, { promised: 30_000_000, reserve: 0.1 })).toEqual({
    known: true,
    enough: true,
    left: 10_000_000,
  });
  expect(affordable(balance, 120_000_000, { promised: 30_000_000, reserve: 0.1 })).toEqual({
    known: true,
    enough: false,
    short: 60_000_000,
    fits: 0.5,
  });
  expect(affordable(undefined, 1, { promised: 0, reserve: 0 })).toEqual({ known: false });
});
