import fc from 'fast-check';
import { expect, test } from 'vitest';
import { condense } from './condense';
import type { PassInput } from './layout';

type State = 'proven' | 'unproven' | 'broken';
const node = (id: string, state: State = 'proven') => ({ id, name: id, detail: '', href: '/', state });
const channels = (count: number, state: (index: number) => State = () => 'proven') =>
  Array.from({ length: count }, (_, index) => node(`c${index}`, state(index)));
const house = (count: number, state?: (index: number) => State): PassInput => ({
  accounts: [node('a')],
  channels: channels(count, state),
  routes: [node('r')],
  apps: [node('desk')],
  lines: channels(count).flatMap(({ id }, index) => [
    { from: 'a', to: id, traffic: index, state: 'proven' as const },
    { from: id, to: 'r', traffic: index, state: 'proven' as const },
  ]),
});

test('a small set-up is drawn as it is', () => {
  expect(condense(house(5), 9).input).toEqual(house(5));
});

test('what is broken is seen first, then what carries most; the rest stands together with its worst mark', () => {
  const { input, members } = condense(
    house(60, (index) => (index === 3 ? 'broken' : index === 40 ? 'unproven' : 'proven')),
    5,
  );
  expect(input.channels.map(({ id }) => id)).toEqual(['c3', 'c40', 'c58', 'c59', 'other channels']);
  expect(input.channels.at(-1)).toMatchObject({ name: '56 other channels', detail: '56 proven', state: 'proven' });
  expect(members.get('other channels')).toHaveLength(56);
});

test('an open column is whole, and what is looked for is drawn by itself', () => {
  expect(condense(house(60), 5, { open: new Set(['channels']) }).input.channels).toHaveLength(60);
  const ids = condense(house(60), 5, { wanted: new Set(['c1', 'c2']) }).input.channels.map(({ id }) => id);
  expect(ids).toEqual(expect.arrayContaining(['c1', 'c2', 'other channels']));
});

test('no message is lost by standing together, and every lane leads between nodes that are drawn', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 80 }), fc.integer({ min: 2, max: 12 }), (count, most) => {
      const whole = house(count);
      const { input } = condense(whole, most);
      const sum = ({ lines }: PassInput) => lines.reduce((total, { traffic }) => total + traffic, 0);
      expect(sum(input)).toBe(sum(whole));
      const drawn = new Set([...input.accounts, ...input.channels, ...input.routes, ...input.apps].map(({ id }) => id));
      for (const { from, to } of input.lines) expect(drawn.has(from) && drawn.has(to)).toBe(true);
      expect(input.channels.length).toBeLessThanOrEqual(Math.max(most, 1));
    }),
  );
});
