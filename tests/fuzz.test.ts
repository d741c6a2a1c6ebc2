/** A little of what `npm run fuzz` does at length: every parser of outside input, on inputs nobody planned. */
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { fuzz } from '../fuzz/fuzz';
import { PARSERS } from '../fuzz/parsers';
import { workbookSamples } from '../fuzz/workbooks';
import { bundleOf } from '../scripts/bundle.mjs';
import { ROOT } from './harness/processes';
import { SLOWNESS } from './harness/until';

let folder: string;

beforeAll(async () => {
  // Where packages are found from.
  folder = mkdtempSync(join(ROOT, 'dist', 'fuzz-'));
  await build({ ...bundleOf({ fuzzThread: 'fuzz/thread.ts' }), outdir: folder });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('no input ends a thread, none hangs, none is thrown at by what does not say so', async () => {
  const { tried, found } = await fuzz({
    seed: Number(process.env.WINDGAP_SEED ?? 20_260_504),
    batch: 20,
    goOn: (round) => round === 0,
    threadFile: join(folder, 'fuzzThread.mjs'),
    folder,
    // Beside all the other tests; what hangs hangs for ever.
    slowness: 20 * SLOWNESS,
    corpus: { 'an XLSX file': await workbookSamples() },
  });
  expect(found).toEqual([]);
  expect(tried.map(({ parser, inputs }) => [parser, inputs])).toEqual(
    PARSERS.map(({ name, found: known = [] }) => [name, known.length + 20]),
  );
});
