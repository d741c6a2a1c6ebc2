import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { isInside, type Known, locate, ownerOf, type Place, segmentWords, WAYS, type Way } from './way';

const knows = (places: Partial<Record<Place, boolean>>): Known[] =>
  Object.entries(places).map(([place, has]) => ({ place: place as Place, has, said: place }));
const NAMES = { provider: 'Brackwater', app: 'Lockbook', channel: 'Harbour desk' };

describe('where it is', () => {
  test('is between the last that has it and the first that has not', () => {
    const segment = locate('out', knows({ asker: true, windgap: true, provider: true, phone: false }));
    expect(segment).toEqual({ way: 'out', from: 'provider', to: 'phone', sure: true, whole: false });
    expect(segmentWords(segment, NAMES)).toBe('Brackwater has it and the phone has not: the fault is between the two');
    expect(ownerOf(segment)).toBe('provider');
  });

  test('is wider where a place between is not known', () => {
    expect(locate('in', knows({ person: true, door: false }))).toMatchObject({
      from: 'person',
      to: 'door',
      sure: true,
    });
  });

  test('is not known beyond the last that has it, and whole once all that can be seen is', () => {
    expect(locate('out', knows({ windgap: true, provider: true }))).toMatchObject({
      to: 'phone',
      sure: false,
      whole: false,
    });
    expect(locate('out', knows({ provider: true, phone: true }))).toMatchObject({ to: 'person', whole: true });
    expect(segmentWords(locate('out', []), NAMES)).toBe('Nothing on the way is known to have it');
  });

  test('a place that has it after one that has not is a contradiction, and no certainty', () => {
    const segment = locate('out', knows({ provider: true, phone: false, person: true }));
    expect(segment).toMatchObject({ sure: false, contradiction: { has: 'person', hasNot: 'phone' } });
    expect(segmentWords(segment, NAMES)).toContain('one of the two');
  });
});

test('whatever is known: never sure of a place that nothing shows to lack it, never whole with one that lacks it', () => {
  const way = fc.constantFrom<Way>('out', 'in');
  const said = fc.array(fc.constantFrom(true, false, undefined), { minLength: 6, maxLength: 6 });
  fc.assert(
    fc.property(way, said, (which, values) => {
      const known = WAYS[which].map((place, index): Known => ({ place, has: values[index], said: '' }));
      const segment = locate(which, known);
      const has = (place?: Place) => known.find((each) => each.place === place)?.has;
      if (segment.sure) expect(has(segment.to)).toBe(false);
      if (segment.from) expect(has(segment.from)).toBe(true);
      if (segment.whole) expect(known.some((each) => each.has === false)).toBe(false);
      if (segment.from && segment.to) expect(isInside(segment, [segment.from, segment.to])).toBe(true);
    }),
  );
});
