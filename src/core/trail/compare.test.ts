import { expect, test } from 'vitest';
import { compareTrails } from './compare';
import type { TrailHop } from './hop';

const hop = (place: string, more: Partial<TrailHop> = {}): TrailHop => ({
  place,
  what: `At ${place}`,
  state: 'proven',
  notes: [],
  evidence: [],
  ...more,
});
const differing = (here: TrailHop[], there: TrailHop[]) =>
  compareTrails(here, there).flatMap(({ place, differs, why }) => (differs ? [`${place}: ${why}`] : []));

test('two that went alike differ nowhere', () => {
  expect(differing([hop('Outbox'), hop('Handset')], [hop('Outbox'), hop('Handset')])).toEqual([]);
});

test('the hop that failed is where they part, with its cause', () => {
  const failure = {
    code: 'credit-gone' as const,
    title: 'The account has no credit left',
    explanation: '',
    remedy: '',
  };
  const here = [
    hop('Outbox'),
    hop('Brackwater', { state: 'broken', failure }),
    hop('Handset', { state: 'not-applicable' }),
  ];
  expect(differing(here, [hop('Outbox'), hop('Brackwater'), hop('Handset')])).toEqual([
    'Brackwater: The account has no credit left',
    'Handset: It is not proven here, and was there',
  ]);
});

test('what one has and the other lacks, and the same place twice', () => {
  expect(differing([hop('Route')], [hop('Route'), hop('Lockbook')])).toEqual(['Lockbook: It did not come this far']);
  expect(differing([hop('Lockbook'), hop('Lockbook')], [hop('Lockbook')])).toEqual([
    'Lockbook: The other did not come by here',
  ]);
});

test('slower counts only by much', () => {
  const slow = (elapsed: number) => [hop('Handset', { elapsed })];
  expect(differing(slow(900), slow(20))).toEqual([]);
  expect(differing(slow(6000), slow(900))).toEqual(['Handset: Far slower here']);
  expect(differing(slow(6000), slow(3000))).toEqual([]);
});
