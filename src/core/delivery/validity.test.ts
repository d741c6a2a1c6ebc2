import fc from 'fast-check';
import { expect, test } from 'vitest';
import { secondsLeft, smppPeriod } from './validity';

test.each([
  [1, '000000000001000R'],
  [90, '000000000130000R'],
  [3600, '000000010000000R'],
  [86_400 + 3661, '000001010101000R'],
  [1e12, '000098235959000R'],
])('%d seconds', (seconds, period) => expect(smppPeriod(seconds)).toBe(period));

test('a period is sixteen characters and as long as it says', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 98 * 86_400 }), (seconds) => {
      const [, days, hours, minutes, rest] = /^0000(..)(..)(..)(..)000R$/.exec(smppPeriod(seconds)) ?? [];
      expect(((Number(days) * 24 + Number(hours)) * 60 + Number(minutes)) * 60 + Number(rest)).toBe(seconds);
    }),
  );
});

test('what is almost over still has a second', () => {
  expect(secondsLeft(10_000, 9_900)).toBe(1);
  expect(secondsLeft(10_000, 4_000)).toBe(6);
  expect(secondsLeft(null, 0)).toBeUndefined();
});
