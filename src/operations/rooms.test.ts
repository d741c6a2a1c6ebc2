/** The rooms of the operations: each has one door, and no two lead to each other in a circle. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { expect, test } from 'vitest';

const SRC = join(import.meta.dirname, '..');

interface Arrow {
  from: string;
  to: string;
}

const files = readdirSync(SRC, { recursive: true, encoding: 'utf8' }).filter(
  (file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$/.test(file),
);
const arrows = files.flatMap((file): Arrow[] => {
  const text = readFileSync(join(SRC, file), 'utf8');
  return [...text.matchAll(/\bfrom '(\.[^']*)'|\bimport\('(\.[^']*)'\)/g)].flatMap(([, fixed, late]) => {
    const path = relative(SRC, join(SRC, dirname(file), fixed ?? late ?? ''));
    const to = [`${path}.ts`, `${path}.tsx`, `${path}/index.ts`].find((each) => existsSync(join(SRC, each)));
    return to ? [{ from: file, to }] : [];
  });
});

/** `accounts`, `apps/hooks`; undefined for what stands elsewhere. Folders inside a room are the room's own. */
function roomOf(file: string): string | undefined {
  const [first, room, inner, ...rest] = file.split('/');
  if (first !== 'operations' || inner === undefined) return undefined;
  return room === 'apps' && rest.length > 0 ? `apps/${inner}` : room;
}

test('a room is entered through its index', () => {
  const past = arrows.filter(({ from, to }) => {
    const room = roomOf(to);
    return room !== undefined && roomOf(from) !== room && to !== `operations/${room}/index.ts`;
  });
  expect(past).toEqual([]);
  expect(new Set(arrows.map(({ to }) => roomOf(to))).size).toBeGreaterThan(25);
});

test('no room uses one that uses it', () => {
  const uses = new Map<string, Set<string>>();
  for (const { from, to } of arrows) {
    const [room, other] = [roomOf(from), roomOf(to)];
    if (room && other && room !== other) uses.set(room, (uses.get(room) ?? new Set()).add(other));
  }
  const settled = new Set<string>();
  const circle = (room: string, way: readonly string[]): readonly string[] | undefined => {
    if (way.includes(room)) return [...way.slice(way.indexOf(room)), room];
    if (settled.has(room)) return undefined;
    for (const other of uses.get(room) ?? []) {
      const found = circle(other, [...way, room]);
      if (found) return found;
    }
    settled.add(room);
    return undefined;
  };
  expect([...uses.keys()].map((room) => circle(room, [])).find((found) => found !== undefined)).toBeUndefined();
});

test('no folder holds more files than a person takes in at a look', () => {
  const counts = new Map<string, number>();
  for (const file of files) counts.set(dirname(file), (counts.get(dirname(file)) ?? 0) + 1);
  const full = [...counts].filter(([folder, count]) => count > 15 && !folder.endsWith('migrations'));
  expect(full).toEqual([]);
});
