import { expect, test } from 'vitest';
import { mapRecord } from './mapRecord';

const field = (name: string, more = {}) => ({
  name,
  label: name,
  required: false,
  onlyNew: false,
  initial: '',
  ...more,
});
const record = { message: { text: 'A boat 🚣 drifts', from: '+447700900123' }, contact: { name: '' } };

test('fields are filled; what may be empty is left out; what is too long is cut between characters', () => {
  const type = {
    fields: [field('who', { required: true }), field('note', { longest: 9 }), field('name'), field('unused')],
  };
  expect(
    mapRecord(
      type,
      { who: '{{ contact.name | default: message.from }}', note: '{{ message.text }}', name: '{{ contact.name }}' },
      record,
    ),
  ).toEqual({
    values: { who: '+447700900123', note: 'A boat …' },
    findings: [],
  });
});

test('a needed field without a value, and any field that is not there, are findings at their field', () => {
  const type = { fields: [field('name', { required: true }), field('boat'), field('more', { required: true })] };
  const { findings } = mapRecord(type, { name: '{{ contact.name }}', boat: '{{ message.boat }}' }, record);
  expect(findings.map(({ field, code }) => [field, code])).toEqual([
    ['name', 'field-empty'],
    ['boat', 'field-missing'],
    ['more', 'field-empty'],
  ]);
});

test('people’s words may look like a token', () => {
  const type = { fields: [field('note')] };
  const said = { ...record, message: { text: 'It says {{ name }} here' } };
  expect(mapRecord(type, { note: '{{ message.text }}' }, said)).toEqual({
    values: { note: 'It says {{ name }} here' },
    findings: [],
  });
});
