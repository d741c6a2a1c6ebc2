import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { benchClock } from './bench';
import { systemClock } from './clock';

const HOUR = 3_600_000;
let folder: string;
let file: string;

const moveTo = (ms: number) => writeFileSync(file, String(ms).padStart(16, '0'), { flag: 'r+' });

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'windgap-clock-'));
  file = join(folder, 'clock');
  writeFileSync(file, '0'.repeat(16));
});
afterEach(() => rmSync(folder, { recursive: true }));

test('now is ahead by what the file says, from the moment it says so', () => {
  const clock = benchClock(file);
  expect(clock.ahead()).toBe(0);
  moveTo(5 * HOUR);
  expect(clock.ahead()).toBe(5 * HOUR);
  expect(clock.now() - systemClock.now()).toBeGreaterThan(5 * HOUR - 1000);
  expect(Math.abs(clock.elapsed() - systemClock.elapsed())).toBeLessThan(1000);
});

test('what waits for a time happens when the clock is moved past it, in order, and no limit is reached by that', async () => {
  const clock = benchClock(file);
  const done: string[] = [];
  const gaveUp = clock.limit(HOUR, () => done.push('limit'));
  const tooLate = clock.after(3 * HOUR, () => done.push('too late'));
  clock.after(HOUR / 2, () => done.push('called off')).cancel();
  await new Promise<void>((resolve) => {
    clock.after(2 * HOUR, () => {
      done.push('second');
      resolve();
    });
    clock.after(HOUR, () => done.push('first'));
    moveTo(2 * HOUR);
  });
  expect(done).toEqual(['first', 'second']);
  gaveUp.cancel();
  tooLate.cancel();
});

test('without a file there is no such clock', () => {
  expect(() => benchClock(join(folder, 'none'))).toThrow(/ENOENT/);
});
