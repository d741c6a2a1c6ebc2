import fc from 'fast-check';
import { expect, test } from 'vitest';
import { memo } from './memo';

/** A memo of what was made, and how often. */
function counted<Value>(value: (key: string) => Value, most?: number, longest?: number) {
  const known = memo<Value>(most, longest);
  const made: string[] = [];
  const ask = (key: string) =>
    known(key, () => {
      made.push(key);
      return value(key);
    });
  return { ask, made };
}

test('a key is worked out once, also where there is nothing for it', () => {
  const { ask, made } = counted((key) => (key === 'none' ? undefined : key.length));
  for (let times = 0; times < 3; times++) {
    expect(ask('none')).toBeUndefined();
    expect(ask('three')).toBe(5);
  }
  expect(made).toEqual(['none', 'three']);
});

test('what throws is asked again', () => {
  const known = memo<number>();
  const refuse = () => {
    throw new Error('no');
  };
  expect(() => known('a', refuse)).toThrow('no');
  expect(known('a', () => 1)).toBe(1);
});

test('however many keys come and however long they are, no more than the most are kept, and each answer is its own', () => {
  fc.assert(
    fc.property(fc.array(fc.string({ maxLength: 8 })), fc.integer({ min: 1, max: 6 }), (keys, most) => {
      const { ask, made } = counted((key) => `of ${key}`, most, 4);
      for (const key of keys) expect(ask(key)).toBe(`of ${key}`);
      const before = made.length;
      const short = [...new Set(keys.filter((key) => key.length <= 4))];
      const long = [...new Set(keys.filter((key) => key.length > 4))];
      // Asked newest first, no new key is kept before what is kept has been found.
      let found = 0;
      for (const key of short.reverse()) {
        const asked = made.length;
        ask(key);
        if (made.length > asked) break;
        found++;
      }
      expect(found).toBeLessThanOrEqual(most);
      for (const key of long) ask(key);
      expect(made.length - before).toBeGreaterThanOrEqual(long.length);
    }),
  );
});

test('when there are too many, the one that was not asked for longest is forgotten', () => {
  const { ask, made } = counted((key) => key, 2);
  for (const key of ['a', 'b', 'a', 'c', 'c', 'a', 'b']) ask(key);
  expect(made).toEqual(['a', 'b', 'c', 'b']);
});
