/** Replaces the sealing key: see `src/engine/rotateKey.ts`. Built by itself, so that it runs beside what was built before. */
import { build } from 'esbuild';
import { bundleOf } from './bundle.mjs';
import { must, run } from './lib.mjs';

await build(bundleOf({ rotateKey: 'src/engine/rotateKey.ts' }));
must('the change of the key', run('node', ['dist/rotateKey.mjs', ...process.argv.slice(2)]));
