import { describe, expect, test } from 'vitest';
import { breakerAfter, type CircuitBreaker, closedBreaker, roomIn } from './circuitBreaker';

const MOST = 24;
const failed = (at: number, began = at) => ({ ok: false, began, at, jitter: 0 });
const succeeded = (at: number) => ({ ok: true, began: at, at, jitter: 0 });
const breakerUpon = (breaker: CircuitBreaker, ...outcomes: Parameters<typeof breakerAfter>[1][]) =>
  outcomes.reduce((before, outcome) => breakerAfter(before, outcome, MOST), breaker);

describe('the circuit breaker', () => {
  test('stays open over single failures, and knows since when none succeeds', () => {
    const breaker = breakerUpon(closedBreaker(MOST), failed(10), failed(20));
    expect(breaker).toMatchObject({ failures: 2, failingSince: 10 });
    expect(roomIn(breaker, 30, 4)).toBe(20);
    expect(breakerUpon(breaker, succeeded(40))).toEqual(closedBreaker(MOST));
  });

  test('closes after three in a row and lets one probe through when it is time', () => {
    const breaker = breakerUpon(closedBreaker(MOST), failed(10), failed(20), failed(30));
    expect(breaker.open).toEqual({ since: 30, probes: 1, retryAt: 5_030 });
    expect(roomIn(breaker, 5_029, 0)).toBe(0);
    expect(roomIn(breaker, 5_030, 0)).toBe(1);
    expect(roomIn(breaker, 5_030, 1)).toBe(0);
  });

  test('calls that were under way when it opened do not count as probes', () => {
    const open = breakerUpon(closedBreaker(MOST), failed(10), failed(20), failed(30));
    expect(breakerUpon(open, failed(40, 5), failed(50, 25))).toBe(open);
    expect(breakerUpon(open, failed(5_040, 5_031)).open).toMatchObject({ probes: 2, retryAt: 20_040 });
  });

  test('probes grow apart to ten minutes, and what the app asks for is never undercut', () => {
    let breaker = breakerUpon(closedBreaker(MOST), failed(10), failed(20), failed(30));
    const waits: number[] = [];
    for (let round = 0; round < 9; round++) {
      const at = breaker.open?.retryAt ?? 0;
      breaker = breakerUpon(breaker, failed(at));
      waits.push(((breaker.open?.retryAt ?? 0) - at) / 1000);
    }
    expect(waits).toEqual([15, 30, 60, 120, 300, 600, 600, 600, 600]);
    const asked = breakerAfter(breaker, { ...failed(breaker.open?.retryAt ?? 0), askedDelay: 3_600_000 }, MOST);
    expect((asked.open?.retryAt ?? 0) - (breaker.open?.retryAt ?? 0)).toBe(3_600_000);
  });

  test('opens slowly: twice as many with each success', () => {
    let breaker = breakerUpon(closedBreaker(MOST), failed(10), failed(20), failed(30));
    const rooms: number[] = [];
    for (let n = 0; n < 6; n++) {
      breaker = breakerUpon(breaker, succeeded(10_000 + n));
      rooms.push(roomIn(breaker, 20_000, 0));
    }
    expect(rooms).toEqual([2, 4, 8, 16, 24, 24]);
    expect(breaker.failingSince).toBeUndefined();
  });
});

/** An app that is down for an hour while 5,000 events wait, and takes 20 ms for each once it is back. */
test('an hour of outage costs few calls, and the way back is no stampede', () => {
  const HOUR = 3_600_000;
  let breaker = closedBreaker(MOST);
  let [now, waiting, callsWhileDown, inFlight] = [0, 5_000, 0, [] as number[]];
  const atOnce: number[] = [];
  while (waiting > 0 && now < 2 * HOUR) {
    while (inFlight.length < waiting && roomIn(breaker, now, inFlight.length) > 0) inFlight.push(now + 20);
    if (now >= HOUR) atOnce.push(inFlight.length);
    const next = Math.min(...inFlight, breaker.open && inFlight.length === 0 ? breaker.open.retryAt : Infinity);
    now = next;
    for (const end of inFlight.filter((time) => time <= now)) {
      const ok = now >= HOUR;
      if (!ok) callsWhileDown += 1;
      else waiting -= 1;
      breaker = breakerAfter(breaker, { ok, began: end - 20, at: now, jitter: 0.5 }, MOST);
    }
    inFlight = inFlight.filter((time) => time > now);
  }
  expect(waiting).toBe(0);
  expect(callsWhileDown).toBeLessThan(MOST + 15);
  expect(now - HOUR).toBeLessThan(12 * 60_000);
  expect(Math.max(...atOnce)).toBeLessThanOrEqual(MOST);
  expect(atOnce.filter((count) => count > 0).slice(0, 2)).toEqual([1, 2]);
});
