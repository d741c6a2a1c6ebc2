import fc from 'fast-check';
import { expect, test } from 'vitest';
import { layPass, type PassInput, pathThrough } from './layout';

const node = (id: string) => ({ id, name: id, detail: '', href: '/', state: 'proven' as const });
const line = (from: string, to: string, traffic = 1) => ({ from, to, traffic, state: 'proven' as const });

const INPUT: PassInput = {
  accounts: [node('a1'), node('a2')],
  channels: [node('c1'), node('c2'), node('c3')],
  routes: [node('r')],
  apps: [node('desk'), node('app')],
  lines: [
    line('a2', 'c1'),
    line('a1', 'c2'),
    line('a1', 'c3'),
    line('c1', 'r'),
    line('r', 'desk'),
    line('r', 'app', 100),
  ],
};

test('channels stand in the order of their accounts, so lanes on the left bank do not cross', () => {
  const rows = layPass(INPUT)
    .nodes.filter((placed) => placed.id.startsWith('c'))
    .sort((a, b) => a.y - b.y);
  expect(rows.map((placed) => placed.id)).toEqual(['c2', 'c3', 'c1']);
});

test('more traffic is wider, and a lane to nowhere is not drawn', () => {
  const { lines } = layPass({ ...INPUT, lines: [...INPUT.lines, line('c1', 'nowhere')] });
  expect(lines).toHaveLength(INPUT.lines.length);
  const width = (to: string) => lines.find((drawn) => drawn.to === to)?.thickness ?? 0;
  expect(width('app')).toBeGreaterThan(width('desk') * 2);
});

test('choosing a node lights what leads to it and what it leads to, and nothing beside', () => {
  expect([...pathThrough('c1', INPUT.lines)].sort()).toEqual(['a2', 'app', 'c1', 'desk', 'r']);
  expect([...pathThrough('c3', INPUT.lines)].sort()).toEqual(['a1', 'c3']);
});

test('any number of nodes is laid inside the picture, without overlap in a column', () => {
  const some = (prefix: string, max: number) =>
    fc.integer({ min: 0, max }).map((count) => Array.from({ length: count }, (_, index) => node(`${prefix}${index}`)));
  fc.assert(
    fc.property(some('a', 6), some('c', 12), some('p', 8), (accounts, channels, apps) => {
      const picture = layPass({ accounts, channels, routes: [node('r')], apps, lines: [] });
      for (const placed of picture.nodes) {
        expect(placed.y).toBeGreaterThan(0);
        expect(placed.y).toBeLessThan(picture.height);
        expect(placed.x + placed.width).toBeLessThan(picture.width);
      }
      const ys = picture.nodes
        .filter((placed) => placed.id.startsWith('c'))
        .map((placed) => placed.y)
        .sort((a, b) => a - b);
      ys.slice(1).forEach((y, index) => {
        expect(y - (ys[index] ?? 0)).toBeGreaterThanOrEqual(50);
      });
    }),
  );
});

test('figures stand apart where lines cross', () => {
  const { lines } = layPass({
    accounts: [node('a')],
    channels: [node('c'), node('d'), node('e'), node('f')],
    routes: [node('r'), node('s'), node('t'), node('u')],
    apps: [node('x'), node('y')],
    lines: ['r', 's', 't', 'u'].flatMap((from) => ['x', 'y'].map((to) => line(from, to, 9))),
  });
  for (const one of lines)
    for (const other of lines)
      if (one !== other)
        expect(Math.hypot(one.figure.x - other.figure.x, one.figure.y - other.figure.y)).toBeGreaterThanOrEqual(14);
});
