import { expect, test } from 'vitest';
import { readQuietTable, USUAL_QUIET, writeQuietTable } from './quietHours';

test('what is written is read as it was', () => {
  const table = { ...USUAL_QUIET, FR: { from: '20:00', to: '09:00' }, SE: { from: '00:00', to: '00:00' } };
  expect(readQuietTable(writeQuietTable(table))).toEqual({ table });
  expect(readQuietTable('\n fr 20:00 – 09:00 \r\n')).toEqual({ table: { FR: { from: '20:00', to: '09:00' } } });
  expect(readQuietTable('')).toEqual({ table: {} });
});

test.each([
  ['France 20:00-09:00', '“France 20:00-09:00” is no country and its hours.'],
  ['FR 20:00-24:00', '“FR 20:00-24:00” is no country and its hours.'],
  ['FR 20:00-09:00\nFR 21:00-09:00', 'FR is there twice.'],
])('%s', (written, problem) => {
  expect(readQuietTable(written)).toEqual({ problem });
});
