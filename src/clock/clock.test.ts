import { expect, test } from 'vitest';
import { runningFrom, systemClock } from './clock';

test('what is called off does not happen, and what repeats ends when it is told to', async () => {
  const done: string[] = [];
  systemClock.after(1, () => done.push('never')).cancel();
  const twice = new Promise<void>((resolve) => {
    const timer = systemClock.every(1, () => {
      done.push('again');
      if (done.length < 2) return;
      timer.cancel();
      systemClock.after(20, resolve);
    });
  });
  await twice;
  expect(done).toEqual(['again', 'again']);
});

test('durations do not follow the machine’s time', async () => {
  const began = systemClock.elapsed();
  await systemClock.pause(20);
  const took = systemClock.elapsed() - began;
  expect(took).toBeGreaterThanOrEqual(15);
  expect(systemClock.elapsed()).toBeLessThan(systemClock.now() / 2);
});

test('a time that is taken over goes on in whole milliseconds', async () => {
  const time = runningFrom(1_000);
  await systemClock.pause(5);
  const later = time();
  expect(later).toBeGreaterThanOrEqual(1_004);
  expect(Number.isInteger(later)).toBe(true);
});
