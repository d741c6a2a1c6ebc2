import fc from 'fast-check';
import { query } from 'jsonpath-rfc9535';
import { expect, test } from 'vitest';
import { type Json, nodes } from './jsonPath';

const NAMES = ['a', 'b', 'wert', "o'clock", '0', 'constructor', '__proto__', 'length'];

const json = fc.letrec<{ any: Json }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 4 },
    fc.constant(null),
    fc.boolean(),
    fc.integer(),
    fc.string(),
    fc.array(tie('any'), { maxLength: 4 }),
    fc.dictionary(fc.constantFrom(...NAMES), tie('any'), { maxKeys: 4 }),
  ),
})).any;

const step = fc.oneof(
  fc.constantFrom('a', 'b', 'wert', 'constructor', '__proto__', 'length').map((name) => `.${name}`),
  fc.constantFrom(...NAMES).map((name) => `['${name.replace("'", "\\'")}']`),
  fc.integer({ min: -5, max: 5 }).map((index) => `[${index}]`),
);
/** What names several places, or may. */
const wide = fc.constantFrom('.*', '[*]', '..a', '[0,1]', "['a','b']", '[?@.a]', '[::2]', '[?@ == 1]');
const path = fc.array(fc.oneof({ weight: 4, arbitrary: step }, { weight: 1, arbitrary: wide }), { maxLength: 4 });

test('every path finds what the library finds for it, in the same order', () => {
  fc.assert(
    fc.property(json, path, (document, steps) => {
      const text = `$${steps.join('')}`;
      expect(nodes(document, text)).toEqual(query(document, text));
    }),
    { numRuns: 2000 },
  );
});

test('what is null is there, and what is not there is nothing', () => {
  expect(nodes({ a: null }, '$.a')).toEqual([null]);
  expect(nodes({ a: null }, '$.a.b')).toEqual([]);
  expect(nodes([1, 2, 3], '$[-1]')).toEqual([3]);
  expect(nodes('text', '$')).toEqual(['text']);
  expect(nodes('text', '$.length')).toEqual([]);
});

test('what is no path is refused each time', () => {
  for (let times = 0; times < 2; times++) expect(() => nodes({}, 'a.b')).toThrow();
});
