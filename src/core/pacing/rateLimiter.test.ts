import { describe, expect, test } from 'vitest';
import { forecast, newRateLimiter, paceNow, take } from './rateLimiter';

/** Sends as fast as the rate limiter lets, asking again when it says, for `ms`; the times of all sends. */
function run(perSecond: number, ms: number, late: () => number = () => 0): number[] {
  const rateLimiter = newRateLimiter();
  const times: number[] = [];
  for (let now = 1_000_000; now < 1_000_000 + ms; ) {
    const { granted, waitMs } = take(rateLimiter, perSecond, 500, now);
    times.push(...Array.from({ length: granted }, () => now));
    now += Math.max(1, waitMs) + late();
  }
  return times;
}

/** The most sends in any second, wherever it begins. */
function busiestSecond(times: readonly number[]): number {
  let from = 0;
  return Math.max(
    ...times.map((time, index) => {
      while ((times[from] as number) <= time - 1000) from++;
      return index - from + 1;
    }),
  );
}

describe.each([0.5, 1, 3, 10, 50, 200])('%d a second', (pace) => {
  test('no second holds more, and at least 97 of 100 are used', () => {
    const times = run(pace, 60_000);
    expect(busiestSecond(times)).toBeLessThanOrEqual(Math.max(1, pace));
    expect(times.length).toBeGreaterThanOrEqual(Math.floor(pace * 60 * 0.97));
  });
});

test('a loop that wakes late and unevenly never makes up for it with a burst', () => {
  let seed = 7;
  const jitter = () => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed % 40;
  };
  expect(busiestSecond(run(50, 60_000, jitter))).toBeLessThanOrEqual(50);
  expect(busiestSecond(run(50, 60_000, () => 1500))).toBeLessThanOrEqual(50);
});

test('a forecast is what the run takes', () => {
  const times = run(20, 30_000);
  const took = (times.at(-1) as number) - (times[0] as number);
  expect(Math.abs(forecast(times.length, 20) - took)).toBeLessThan(1_200);
});

test('a clock that steps back holds the line until it has caught up', () => {
  const rateLimiter = newRateLimiter();
  expect(take(rateLimiter, 1, 5, 10_000)).toMatchObject({ granted: 1 });
  expect(take(rateLimiter, 1, 5, 7_000)).toMatchObject({ granted: 0, waitMs: 4_010 });
});

test('what was sent long ago is forgotten, what counts is not', () => {
  const rateLimiter = newRateLimiter();
  for (let now = 0; now < 600_000; now += 10) take(rateLimiter, 100, 1, now);
  expect(rateLimiter.sent.length).toBeLessThanOrEqual(1_201);
  expect(paceNow(rateLimiter, 600_000)).toBeGreaterThanOrEqual(97);
});
