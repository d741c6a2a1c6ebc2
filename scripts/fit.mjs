/** Fits the shares of causes in Diagnosis to recorded cases: see `tests/calibration/writeShares.ts`. */
import { build } from 'esbuild';
import { bundleOf } from './bundle.mjs';
import { must, run } from './lib.mjs';

await build(bundleOf({ fit: 'tests/calibration/writeShares.ts' }));
must('the fit', run('node', ['dist/fit.mjs']));
must('the format', run('npx', ['biome', 'check', '--write', 'src/core/diagnosis/shares.ts']));
