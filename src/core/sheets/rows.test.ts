import { expect, test } from 'vitest';
import { columnLetter, columnNames, delimiterOf, neutralised, rowRecord } from './rows';

test('columns without a name, and names that occur again', () => {
  expect(columnNames(['\ufeffPhone ', '', 'Name', 'Name', ' First\n name'])).toEqual([
    'Phone',
    'column B',
    'Name',
    'Name 2',
    'First name',
  ]);
  expect([0, 25, 26, 51, 52, 701, 702].map(columnLetter)).toEqual(['A', 'Z', 'AA', 'AZ', 'BA', 'ZZ', 'AAA']);
});

test('our own columns are no part of a row; an empty row is none; short rows are filled', () => {
  const names = ['phone', 'windgap sent', 'name', 'windgap result'];
  expect(rowRecord(names, ['1', 'x', 'Ada', 'y'])).toEqual({ phone: '1', name: 'Ada' });
  expect(rowRecord(names, ['', ' ', '', ''])).toBe(undefined);
  expect(rowRecord(names, ['1'])).toEqual({ phone: '1', name: '' });
  expect(Object.keys(rowRecord(['__proto__', 'a'], ['1', '2']) ?? {})).toEqual(['__proto__', 'a']);
});

test.each([
  ['=1+1', "'=1+1"],
  ['@here', "'@here"],
  ['-5', "'-5"],
  ['+447700900123', '+447700900123'],
  ['+44 7700', "'+44 7700"],
  ['plain', 'plain'],
])('%s is written as %s', (value, written) => expect(neutralised(value)).toBe(written));

test.each([
  ['a,b,c\n1;2;3;4;5', ','],
  ['a;b\r\n1,5;2', ';'],
  ['"a,b,c,d";b;c\n', ';'],
  ['a\tb', '\t'],
  ['a|b', '|'],
  ['alone', ','],
])('%j is delimited by %j', (text, delimiter) => expect(delimiterOf(text)).toBe(delimiter));
