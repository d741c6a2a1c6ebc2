/** There is one source of time: whoever reads the machine's clock or sets a timer by itself cannot be moved. */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { expect, test } from 'vitest';

const ROOT = join(import.meta.dirname, '../..');
const TIME = /Date\.now\(|new Date\(\)|\bDate\(\)|setTimeout\(|setInterval\(|performance\.now\(|hrtime/;
const FIXED_WAIT = /setTimeout\(|waitForTimeout\(|setInterval\(/;

function linesOf(folder: string, pattern: RegExp, spared: RegExp): string[] {
  return readdirSync(join(ROOT, folder), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.tsx?$/.test(entry.name))
    .map((entry) => relative(ROOT, join(entry.parentPath, entry.name)))
    .filter((file) => !spared.test(file))
    .flatMap((file) =>
      readFileSync(join(ROOT, file), 'utf8')
        .split('\n')
        .flatMap((line, index) => (pattern.test(line) ? [`${file}:${index + 1} ${line.trim()}`] : [])),
    );
}

test('no file of the product has a clock but the given one', () => {
  expect(linesOf('src', TIME, /^src\/clock\/|\.test\.tsx?$/)).toEqual([]);
});

test('nobody waits for a time in a test', () => {
  // until.ts is where looking again is at home; a load has a pace, a network a lag, a disturbance a length; what does not end is ended.
  const spared = /^tests\/harness\/(until|crowd|processes)\.ts$|^tests\/chaos\/lasting\.ts$|^e2e\/lag\.ts$/;
  expect([...linesOf('tests', FIXED_WAIT, spared), ...linesOf('e2e', FIXED_WAIT, spared)]).toEqual([]);
});
