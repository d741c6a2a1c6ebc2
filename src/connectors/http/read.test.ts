import { expect, test } from 'vitest';
import { foundNothing, money, time } from './read';

test.each([
  ['2026-11-24T10:00:00Z'],
  ['2026-11-24T11:00:00+01:00'],
  ['2026-11-24T10:00:00'],
  ['2026-11-24 10:00:00'],
  ['Tue, 24 Nov 2026 10:00:00 GMT'],
  ['1795514400'],
  ['1795514400.000'],
  ['1795514400000'],
  ['1795514400000000'],
  ['1795514400000000000'],
])('%s is ten o’clock on the 24th of November 2026', (at) => {
  expect(time({ at }, '$.at')).toBe(Date.UTC(2026, 10, 24, 10));
  if (/^\d+$/.test(at) && at.length < 16) expect(time({ at: Number(at) }, '$.at')).toBe(Date.UTC(2026, 10, 24, 10));
});

test('what is no time is none', () => {
  for (const at of ['', 'soon', '12', null, '99999999999999999999']) expect(time({ at }, '$.at')).toBeUndefined();
});

test('amounts are read in the unit they are written in, by the decimals of their currency', () => {
  const read = (amount: unknown, currency: string, unit?: 'major' | 'minor' | 'micro') =>
    money({ amount, currency } as never, '$.amount', '$.currency', unit)?.micros;
  expect(read('12.50', 'EUR')).toBe(12_500_000);
  expect(read(1250, 'EUR', 'minor')).toBe(12_500_000);
  expect(read(1250, 'JPY', 'minor')).toBe(1_250_000_000);
  expect(read(1250, 'KWD', 'minor')).toBe(1_250_000);
  expect(read(12_500_000, 'EUR', 'micro')).toBe(12_500_000);
  expect(read('', 'EUR')).toBeUndefined();
});

test('paths that find nothing are told, and a list that is empty is there', () => {
  const answer = { a: 1, list: [], deep: {} };
  expect(foundNothing(answer, { a: '$.a', list: '$.list[*]', b: '$.b', c: '$.deep.c', words: { x: 'y' } })).toEqual([
    { name: 'b', path: '$.b' },
    { name: 'c', path: '$.deep.c' },
  ]);
});
