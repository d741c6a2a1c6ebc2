import fc from 'fast-check';
import { expect, test } from 'vitest';
import { BEGINNING, chainDigest, personalDigest, type StoredEntry, verifyChain } from './chain';

function chainOf(n: number): StoredEntry[] {
  const entries: StoredEntry[] = [];
  for (let place = 1; place <= n; place++) {
    const part = { actor_name: `Person ${place}`, summary: `Did ${place}`, details: place % 2 ? null : '{"a":1}' };
    const salt = `salt${place}`;
    const entry = {
      place,
      id: `aud_${place}`,
      at: place * 1000,
      actor_kind: 'user',
      actor_id: `usr_${place}`,
      action: 'thing.done',
      subject_id: `sub_${place}`,
      personal: personalDigest(salt, part),
    };
    const digest = chainDigest(entries.at(-1)?.digest ?? BEGINNING, entry);
    entries.push({ ...entry, ...part, salt, digest });
  }
  return entries;
}

test('a chain holds, also where people were forgotten', () => {
  const entries = chainOf(5);
  expect(verifyChain(entries)).toMatchObject({ holds: true, entries: 5, head: { place: 5 } });
  const forgotten = entries.map((entry, index) =>
    index === 2 ? { ...entry, salt: null, actor_name: '', summary: '', details: null } : entry,
  );
  expect(verifyChain(forgotten)).toMatchObject({ holds: true, entries: 5 });
  expect(verifyChain([])).toEqual({ holds: true, entries: 0, head: undefined });
});

test('whatever is changed in whichever entry is found there', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 8 }),
      fc.constantFrom(
        'id',
        'at',
        'actor_id',
        'action',
        'subject_id',
        'actor_name',
        'summary',
        'details',
        'personal',
        'digest',
      ),
      (place, field) => {
        const entries = chainOf(8);
        const entry = entries[place - 1] as StoredEntry;
        Object.assign(entry, { [field]: field === 'at' ? 7 : 'something else' });
        expect(verifyChain(entries)).toMatchObject({ holds: false, place });
      },
    ),
  );
});

test('what is taken out, put in twice or cut off is found', () => {
  const entries = chainOf(6);
  const head = verifyChain(entries);
  expect(verifyChain([...entries.slice(0, 2), ...entries.slice(3)])).toMatchObject({ holds: false, place: 4 });
  expect(verifyChain([...entries.slice(0, 3), ...entries.slice(2)])).toMatchObject({ holds: false, place: 3 });
  // The end alone can be cut off without a trace, unless somebody noted it.
  expect(verifyChain(entries.slice(0, 4))).toMatchObject({ holds: true });
  const noted = head.holds && head.head ? [head.head] : [];
  expect(verifyChain(entries.slice(0, 4), noted)).toMatchObject({
    holds: false,
    place: 5,
    why: expect.stringContaining('6 entries were noted'),
  });
  // Made anew from somewhere on, it is another chain.
  const anew = chainOf(6).map((entry) => ({ ...entry }));
  (anew[3] as StoredEntry).action = 'other';
  for (let n = 3; n < 6; n++) {
    const entry = anew[n] as StoredEntry;
    entry.digest = chainDigest((anew[n - 1] as StoredEntry).digest, entry);
  }
  expect(verifyChain(anew)).toMatchObject({ holds: true });
  expect(verifyChain(anew, noted)).toMatchObject({ holds: false, place: 6 });
});
