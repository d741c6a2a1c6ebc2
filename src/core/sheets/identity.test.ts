import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { contentOfColumns, contentOfKeyColumn, createRowKeys, findColumns, jumpIn, placeColumns } from './identity';

const cell = fc.constantFrom('', '1', '2', 'x');
const table = fc.array(fc.tuple(cell, cell, cell), { maxLength: 12 });

const named = (...names: string[]) => names.map((name) => ({ name, called: name }));

/** The keys of a table whose rows are told by these columns. */
const keysOf = (rows: readonly (readonly string[])[], names: readonly string[], at: readonly number[]) => {
  const keyOf = createRowKeys(contentOfColumns({ names, at }));
  return rows.map((row) => keyOf(row).key);
};

test('a row is the same wherever it stands; equal rows are as many as there are', () => {
  fc.assert(
    fc.property(table, fc.nat(), (rows, turn) => {
      const by = rows.length === 0 ? 0 : turn % rows.length;
      const turned = [...rows.slice(by), ...rows.slice(0, by)];
      const keys = keysOf(rows, ['a', 'b'], [0, 1]);
      expect(keysOf(turned, ['a', 'b'], [0, 1]).sort()).toEqual([...keys].sort());
      expect(new Set(keys).size).toBe(rows.length);
    }),
  );
});

test('columns renamed, added or put elsewhere change no row', () => {
  const before = ['phone', 'name', 'note'];
  const change = fc.record({
    order: fc.shuffledSubarray([0, 1, 2, 3], { minLength: 4, maxLength: 4 }),
    renamed: fc.constantFrom(undefined, 'phone', 'name', 'note'),
    moved: fc.boolean(),
  });
  fc.assert(
    fc.property(table, change, (rows, { order, renamed, moved }) => {
      // A fourth column is added unless one is renamed; columns move unless one is renamed and the place tells which.
      const header = [...before.map((name) => (name === renamed ? `${name} (new)` : name)), 'added'];
      const kept = moved || !renamed ? order.filter((index) => !renamed || index < 3) : [0, 1, 2, 3];
      const now = kept.map((index) => header[index] as string);
      const { found, lost } = findColumns(named('phone', 'name'), before, now);
      expect(lost).toEqual([]);
      const { names, at } = placeColumns(found, now);
      const after = rows.map((row) => kept.map((index) => row[index] ?? 'whatever'));
      expect(keysOf(after, names, at)).toEqual(keysOf(rows, ['phone', 'name'], [0, 1]));
    }),
  );
});

test('a column that is gone is lost and not guessed at; one renamed twice is still the same', () => {
  const lostOf = (names: string[], before: string[], now: string[]) => findColumns(named(...names), before, now).lost;
  expect(lostOf(['a', 'b'], ['a', 'b', 'c'], ['x', 'y', 'z'])).toEqual([]);
  expect(lostOf(['a', 'b'], ['a', 'b', 'c'], ['c', 'a'])).toEqual(['b']);
  expect(lostOf(['a', 'b'], ['a', 'b', 'c'], ['c', 'p', 'q', 'r', 'a'])).toEqual([]);
  expect(lostOf(['c'], ['a', 'b', 'c'], ['a', 'p', 'b', 'q'])).toEqual(['c']);
  const once = findColumns(named('a'), ['a', 'b'], ['a1', 'b']).found;
  expect(findColumns(once, ['a1', 'b'], ['b', 'a2']).found).toEqual([{ name: 'a', called: 'a2' }]);
});

test('keys are those of rows known from before columns were tracked: all columns by name, in their order', () => {
  const known = createHash('sha256').update(JSON.stringify(Object.entries({ phone: '1', name: 'Ada' })));
  expect(keysOf([['1', 'Ada']], ['phone', 'name'], [0, 1])).toEqual([known.digest('base64url').slice(0, 22)]);
});

test('with a key column other cells may change', () => {
  const keyOf = createRowKeys(contentOfKeyColumn(0));
  const first = keyOf(['7', 'a']);
  expect(createRowKeys(contentOfKeyColumn(0))([' 7 ', 'b'])).toEqual(first);
  expect(keyOf(['7', 'c']).repeated).toBe(true);
});

describe('a jump in new rows', () => {
  test.each([
    ['nothing new', { fresh: 0, known: 100, knownBefore: 100 }, undefined],
    ['some more', { fresh: 12, known: 100, knownBefore: 100 }, undefined],
    ['one fixed', { fresh: 1, known: 3, knownBefore: 4 }, undefined],
    ['the only one fixed', { fresh: 1, known: 0, knownBefore: 1 }, undefined],
    ['the first rows', { fresh: 40, known: 0, knownBefore: 0 }, undefined],
    ['all look different', { fresh: 40, known: 0, knownBefore: 40 }, 'replaced'],
    ['three look different', { fresh: 3, known: 0, knownBefore: 3 }, 'replaced'],
    ['half look different', { fresh: 20, known: 20, knownBefore: 40 }, 'replaced'],
    ['many at once', { fresh: 51, known: 100, knownBefore: 100 }, 'many'],
    ['many, and usual for so long a sheet', { fresh: 200, known: 1000, knownBefore: 1000 }, undefined],
    ['archived, and some new', { fresh: 1, known: 0, knownBefore: 500 }, undefined],
  ] as const)('%s', (_, look, jump) => expect(jumpIn(look)).toBe(jump));
});
