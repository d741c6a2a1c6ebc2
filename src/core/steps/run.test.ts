import fc from 'fast-check';
import { expect, test } from 'vitest';
import { advance, cancel, newRun, type Outcome, type Run } from './run';

const DONE: Outcome = { kind: 'done', said: 'done', ref: 'msg_1' };
const FAILED: Outcome = { kind: 'failed', finding: { code: 'x', severity: 'error', problem: 'No.', remedy: 'Yes.' } };
const AGAIN: Outcome = { kind: 'again', said: 'not now' };

test('steps in order; a wait is no attempt; the end is the end', () => {
  let run = newRun(2, 1000);
  run = advance(run, { kind: 'not-yet', until: 5000 }, 1000, 0);
  expect(run).toMatchObject({ state: 'waiting', next: 0, dueAt: 5000, attempts: 0, results: [] });
  run = advance(run, DONE, 5000, 0);
  expect(run).toMatchObject({ state: 'due', next: 1, dueAt: 5000 });
  run = advance(run, DONE, 6000, 0);
  expect(run).toMatchObject({ state: 'done', next: 2 });
  expect(run.results.map(({ step, at, ref }) => [step, at, ref])).toEqual([
    [0, 5000, 'msg_1'],
    [1, 6000, 'msg_1'],
  ]);
  for (const outcome of [DONE, FAILED, AGAIN]) expect(advance(run, outcome, 7000, 0)).toBe(run);
  expect(cancel(run, 7000, 'late')).toBe(run);
});

test('a step that fails for good ends the run; nothing after it is done', () => {
  const run = advance(newRun(3, 0), FAILED, 10, 0);
  expect(run).toMatchObject({ state: 'failed', next: 0, results: [{ did: 'failed', finding: { code: 'x' } }] });
});

test('trying again waits longer each time, keeps to what was asked, and ends after a day', () => {
  let run: Run = newRun(1, 0);
  let now = 0;
  const waits: number[] = [];
  while (run.state === 'due') {
    run = advance(run, AGAIN, now, 0);
    if (run.state !== 'due') break;
    waits.push((run.dueAt - now) / 1000);
    now = run.dueAt;
  }
  expect(waits.slice(0, 7)).toEqual([5, 15, 60, 300, 900, 3600, 7200]);
  expect(now).toBeLessThanOrEqual(24 * 3_600_000);
  expect(now).toBeGreaterThan(12 * 3_600_000);
  expect(run.state).toBe('failed');
  expect(run.results.length).toBeLessThanOrEqual(6);
  expect(advance(newRun(1, 0), { ...AGAIN, retryAfter: 90_000 }, 0, 0).dueAt).toBe(90_000);
});

test('after a success the next step begins with a fresh count', () => {
  const tried = advance(newRun(2, 0), AGAIN, 0, 0);
  const after = advance(tried, DONE, tried.dueAt, 0);
  expect([after.attempts, after.firstAttemptAt]).toEqual([0, undefined]);
});

test('whatever happens, a run moves forward only and ends once', () => {
  const outcome = fc.oneof(
    fc.constant(DONE),
    fc.constant(AGAIN),
    fc.constant(FAILED),
    fc.nat(10_000).map((until): Outcome => ({ kind: 'not-yet', until })),
  );
  fc.assert(
    fc.property(fc.nat(4), fc.array(outcome, { maxLength: 20 }), (steps, outcomes) => {
      let run = newRun(steps, 0);
      for (const [index, next] of outcomes.entries()) {
        const after = advance(run, next, index * 1000, 0.5);
        expect(after.next).toBeGreaterThanOrEqual(run.next);
        expect(after.next).toBeLessThanOrEqual(steps);
        if (['done', 'failed'].includes(run.state)) expect(after).toBe(run);
        if (after.state === 'done') expect(after.next).toBe(steps);
        run = after;
      }
    }),
  );
});
