import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fieldValue, listFields, mergeField, type PostedRecord } from './fields';
import { mergeText } from './merge';

const record: PostedRecord = {
  'First Name': 'Ada',
  guest: { phone: '07700 900123', boats: ['Heron', 'Tern'] },
  berth: 3,
  note: '',
  left: null,
  upstream: 'Dear {{ name }}',
  paid: false,
};

test.each([
  ['Berth {{ berth }} for {{ post["First Name"] }}', 'Berth 3 for Ada'],
  ['{{ guest.boats }} at {{ guest.phone }}', 'Heron, Tern at 07700 900123'],
  ['Dear {{ nickname | default: "boater" }}{{ note | default: "." }}', 'Dear boater.'],
  ['{% if paid %}Paid{% else %}Open{% endif %}{% if unheard_of %}!{% endif %}', 'Open'],
  ['{% assign next = berth | plus: 1 %}Next is {{ next }}', 'Next is 4'],
])('%s', (template, text) => {
  expect(mergeText(template, record)).toEqual({ text, findings: [] });
});

test.each([
  ['{{ first_name }}', 'field-label', 'Use First Name.'],
  ['{{ Berth }}', 'field-letter-case', 'Use berth.'],
  ['{{ phone }}', 'field-elsewhere', 'Use guest.phone'],
  ['{{ Guest.Phone }}', 'field-letter-case', 'Use guest.phone.'],
  ['{{ post["Boat name"] }}', 'field-missing', 'Choose a field'],
  ['{{ note }}', 'field-empty', 'default'],
  ['{{ left }}', 'field-empty', 'default'],
  ['{{ guest }}', 'field-group', 'inside'],
  ['{{ upstream }}', 'field-token', 'its own placeholder'],
  ['{% for b in guest.boats %}{{ boat }}{% endfor %}', 'field-missing', 'Choose'],
  ['{{ guest.constructor }}', 'field-missing', 'Choose'],
  ['{{ berth | shout }}', 'merge-broken', 'two braces'],
  ['{{ berth', 'merge-broken', 'two braces'],
])('%s is a finding: %s', (template, code, remedy) => {
  const { findings } = mergeText(template, record);
  expect(findings.map((finding) => finding.code)).toEqual([code]);
  expect(findings[0]?.remedy).toContain(remedy);
});

test('a finding is at its place in the text, and one does not hide the next', () => {
  const { findings } = mergeText('Dear {{ nobody }}, berth {{ note }}.', record);
  expect(findings.map(({ code, place }) => [code, place])).toEqual([
    ['field-missing', { from: 5, to: 17 }],
    ['field-empty', { from: 25, to: 35 }],
  ]);
});

const name = fc.oneof(
  fc.string({ maxLength: 8 }),
  fc.string({ unit: 'binary', maxLength: 8 }),
  fc.constantFrom(
    '__proto__',
    'constructor',
    'toString',
    'length',
    'post',
    'a.b',
    'First Name',
    '{{',
    '"',
    "'",
    '0',
    'true',
  ),
);
const body = fc.dictionary(name, fc.jsonValue({ maxDepth: 3 }), { maxKeys: 6 }).map((value) => value as PostedRecord);

describe('whatever an app posts', () => {
  test('every field that is listed is found under the name it is listed by', () => {
    fc.assert(
      fc.property(body, (posted) => {
        for (const field of listFields(posted)) expect(fieldValue(posted, field.name)).not.toBe(undefined);
      }),
    );
  });

  test('merging never throws, and what is sent holds no token and no object', () => {
    const template = fc.array(
      fc.oneof(
        name.map((field) => `{{ ${field} }}`),
        name.map((field) => `{{ post["${field}"] }}`),
        fc.constantFrom('Dear ', '{% if a %}x{% endif %}', '\n'),
      ),
      { maxLength: 5 },
    );
    fc.assert(
      fc.property(template, body, (parts, posted) => {
        const { text, findings } = mergeText(parts.join(''), posted);
        if (findings.length === 0) expect(text).not.toMatch(/\{\{[^{}]*\}\}|\[object/);
      }),
      { numRuns: 400 },
    );
  });

  test('a field written as it is offered gives its value, or says why not', () => {
    fc.assert(
      fc.property(body, (posted) => {
        for (const field of listFields(posted)) {
          if (field.name.includes('"') || field.name.includes('\\')) continue;
          const { text, findings } = mergeText(mergeField(posted, field.name), posted);
          if (findings.length === 0) expect(text).toBe(field.value);
          else expect(findings[0]?.code).toMatch(/field-(empty|token|group)/);
        }
      }),
      { numRuns: 400 },
    );
  });
});
