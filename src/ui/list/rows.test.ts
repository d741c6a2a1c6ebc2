import { expect, test } from 'vitest';
import { containing, ordered } from './rows';

const row = (key: string, ...values: (string | number | undefined)[]) => ({ key, values });
const rows = [
  row('a', 'Écluse', '+44 7700 900114', 3),
  row('b', 'Line 10', '+44 7700 900200', undefined),
  row('c', 'Line 9', '', 12),
];
const keys = (found: readonly { key: string }[]) => found.map(({ key }) => key).join('');

test.each([
  ['', 'abc'],
  ['ecluse', 'a'],
  ['LINE', 'bc'],
  ['line 9', 'bc'],
  ['9 line 900200', 'b'],
  ['+447700900114', 'a'],
  ['900 114', 'a'],
  ['nothing', ''],
])('“%s” finds %s', (typed, found) => {
  expect(keys(containing(rows, typed))).toBe(found);
});

test('words in order as people count, figures as figures, and what has no value last both ways', () => {
  expect(keys(ordered(rows, { column: 0, down: false }))).toBe('acb');
  expect(keys(ordered(rows, { column: 0, down: true }))).toBe('bca');
  expect(keys(ordered(rows, { column: 2, down: false }))).toBe('acb');
  expect(keys(ordered(rows, { column: 2, down: true }))).toBe('cab');
  expect(keys(ordered(rows, { column: 1, down: true }))).toBe('bac');
  expect(ordered(rows, undefined)).toBe(rows);
});
