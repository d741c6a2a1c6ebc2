import fc from 'fast-check';
import { expect, test } from 'vitest';
import { guessMapping, mapValues, variantFor } from './mapping';
import { numbered, numberedValues, render } from './render';
import { placeholdersIn, type Variant, variablesOf } from './template';

const variant: Variant = {
  language: 'en',
  header: { kind: 'text', text: 'Passage at {{ lock }}' },
  body: 'Dear {{ skipper }}, {{ lock }} opens for you at {{ time }} sharp.',
  footer: 'Mossgate Waterways',
  buttons: [
    { kind: 'link', label: 'See it', target: 'https://m.example/p/{{ passage }}' },
    { kind: 'quick-reply', label: 'Cancel' },
  ],
  samples: {},
};
const values = { lock: 'North lock', skipper: 'Ines Calder', time: '14:30', passage: 'A 7' };

test('everything in its place, variables numbered as they appear', () => {
  expect(variablesOf(variant)).toEqual(['lock', 'skipper', 'time', 'passage']);
  const { text, findings } = render(variant, values);
  expect(text).toBe(
    'Passage at North lock\nDear Ines Calder, North lock opens for you at 14:30 sharp.\nMossgate Waterways\nSee it: https://m.example/p/A%207',
  );
  expect(findings).toEqual([]);
  expect(numbered(variant, (number) => `%${number}`)(variant.body)).toBe('Dear %2, %1 opens for you at %3 sharp.');
  expect(numberedValues(variant, values)).toEqual(['North lock', 'Ines Calder', '14:30', 'A 7']);
});

test('what is missing or is itself a placeholder is named and leaves nothing behind', () => {
  const { text, findings } = render(variant, {
    lock: ' ',
    skipper: 'Dear {{ name }}',
    time: '14:30',
    constructor: 'x',
  });
  expect(findings.map(({ code, variable }) => `${variable} ${code}`)).toEqual([
    'lock value-missing',
    'skipper value-token',
    'passage value-missing',
  ]);
  expect(text).not.toMatch(/\{\{|\}\}/);
});

const word = fc.stringMatching(/^[a-z][a-z0-9_]{0,8}$/);
const words = fc.string({ unit: 'grapheme', maxLength: 60 }).map((text) => text.replace(/[{}%<>]/g, ''));
const body = fc
  .array(
    fc.oneof(
      words,
      word.map((name) => `{{ ${name} }}`),
    ),
    { minLength: 1, maxLength: 12 },
  )
  .map((pieces) => pieces.join(''));
const anything = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string({ unit: 'grapheme' }),
  fc.constantFrom('{', '{{', '}}', '{{ x }}', '\u{1f6a4}', '’'),
);

test('no values, however strange, make it throw or leave a placeholder', () => {
  fc.assert(
    fc.property(body, fc.option(body), fc.dictionary(word, anything), (text, footer, given) => {
      const shown: Variant = {
        language: 'en',
        body: text,
        footer: footer ?? undefined,
        buttons: [{ kind: 'link', label: 'Go', target: `https://m.example/${text}` }],
        samples: {},
      };
      const all = Object.fromEntries(
        variablesOf(shown).map((name, index) => [name, Object.values(given)[index] ?? '']),
      );
      const rendered = render(shown, { ...all, ...given });
      expect(placeholdersIn(rendered.text)).toEqual([]);
      const empty = variablesOf(shown).filter((name) => ({ ...all, ...given })[name]?.trim() === '');
      expect(rendered.findings.map(({ variable }) => variable)).toEqual(expect.arrayContaining(empty));
    }),
    { numRuns: 500 },
  );
});

const record = {
  skipper: 'Ines Calder',
  passage: { lock: 'North lock', at: '14:30' },
  mobile: '+447700900123',
  note: '',
};

test.each([
  [{ from: 'field', field: 'skipper' }, 'Ines Calder', undefined],
  [{ from: 'field', field: 'passage.lock' }, 'North lock', undefined],
  [{ from: 'field', field: 'note', fallback: 'boater' }, 'boater', undefined],
  [{ from: 'field', field: 'gone', fallback: 'boater' }, 'boater', undefined],
  [{ from: 'attribute', attribute: 'name' }, 'Ada Fenn', undefined],
  [{ from: 'constant', value: 'boater' }, 'boater', undefined],
  [{ from: 'field', field: 'note' }, undefined, 'field-empty'],
  [{ from: 'field', field: 'Skipper' }, undefined, 'field-letter-case'],
  [{ from: 'field', field: 'passage' }, undefined, 'field-group'],
  [{ from: 'attribute', attribute: 'language' }, undefined, 'field-empty'],
  [{ from: 'attribute', attribute: 'constructor' }, undefined, 'field-empty'],
  [{ from: 'constant', value: ' ' }, undefined, 'field-empty'],
  [{ from: 'field', field: 'mobile' }, '+447700900123', 'value-of-another-kind'],
  [undefined, undefined, 'variable-unmapped'],
] as const)('a name from %j', (source, value, code) => {
  const mapped = mapValues(['name'], source ? { name: source } : {}, { record, attributes: { name: 'Ada Fenn' } });
  expect(mapped.values.name).toBe(value);
  expect(mapped.findings.map((finding) => finding.code)).toEqual(code ? [code] : []);
});

test('a first guess goes by what fields are called', () => {
  expect(
    guessMapping(['skipper', 'lock', 'time', 'country', 'skipper_mobile'], ['skipper', 'passage.lock', 'mobile']),
  ).toEqual({
    skipper: { from: 'field', field: 'skipper' },
    lock: { from: 'field', field: 'passage.lock' },
    country: { from: 'attribute', attribute: 'country' },
    skipper_mobile: { from: 'field', field: 'mobile' },
  });
});

test.each([
  ['sv', 'sv'],
  ['sv-FI', 'sv'],
  ['pt', 'pt-BR'],
  ['pt-BR', 'pt-BR'],
  ['fr', 'en'],
  [undefined, 'en'],
])('somebody whose language is %s gets %s', (language, gets) => {
  expect(variantFor([{ language: 'en' }, { language: 'sv' }, { language: 'pt-BR' }], language)?.language).toBe(gets);
});
