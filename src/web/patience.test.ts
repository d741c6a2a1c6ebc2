import { expect, test } from 'vitest';
import { createPatience } from './patience';

/** Pauses end when the time is moved on. */
function timed() {
  let now = 0;
  const pauses: { until: number; end(): void }[] = [];
  return {
    elapsed: () => now,
    pause: (ms: number) => new Promise<void>((end) => pauses.push({ until: now + ms, end })),
    async pass(ms: number) {
      now += ms;
      for (const due of pauses.filter(({ until }) => until <= now)) due.end();
      for (let n = 0; n < 5; n++) await Promise.resolve();
    },
  };
}

/** How many of these have ended. */
function counted(answers: Promise<unknown>[]) {
  const done = { n: 0 };
  for (const answer of answers) void answer.then(() => done.n++);
  return done;
}

const refuse = (patience: ReturnType<typeof createPatience>, from: string, n: number) =>
  Array.from({ length: n }, () => patience.refused(from));

test('a few refusals are answered at once; more come slower and slower, and nobody else waits', async () => {
  const clock = timed();
  const patience = createPatience(clock);
  const done = counted(refuse(patience, '198.51.100.7', 60));
  const other = counted([...refuse(patience, '198.51.100.8', 30), patience.turn('198.51.100.9')]);
  await clock.pass(0);
  expect([done.n, other.n]).toEqual([30, 31]);
  await clock.pass(1000);
  expect(done.n).toBe(40);
  const turn = counted([patience.turn('198.51.100.7')]);
  await clock.pass(0);
  expect(turn.n).toBe(0);
  await clock.pass(2000);
  expect([done.n, turn.n]).toEqual([60, 1]);
});

test('one household is one caller, whose debt ends and who never waits longer than five seconds', async () => {
  const clock = timed();
  const patience = createPatience(clock);
  void refuse(patience, '2001:db8:1:2::1', 150);
  const turn = counted([patience.turn('2001:db8:1:2::ffff')]);
  await clock.pass(4999);
  expect(turn.n).toBe(0);
  await clock.pass(1);
  expect(turn.n).toBe(1);
  await clock.pass(5000);
  const again = counted([patience.turn('2001:db8:1:2::1')]);
  await clock.pass(0);
  expect(again.n).toBe(1);
});

test('so many wait, and no more', async () => {
  const patience = createPatience(timed());
  void refuse(patience, '198.51.100.7', 300);
  expect(await patience.turn('198.51.100.7')).toBe(false);
  expect(await patience.turn('198.51.100.8')).toBe(true);
});
