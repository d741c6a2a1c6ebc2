import { expect, test } from 'vitest';
import { systemClock } from './clock';

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
