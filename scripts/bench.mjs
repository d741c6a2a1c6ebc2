/** Runs what measures and judges against a production build: `bench.mjs`, or `bench.mjs capture`. */
import { bundleOf } from './bundle.mjs';
import { run } from './lib.mjs';
import { ensureReady } from './ready.mjs';

const entry = process.argv[2] === 'capture' ? 'capture' : 'main';
await ensureReady();
const { build } = await import('esbuild');
await build(bundleOf({ [`bench-${entry}`]: `bench/${entry}.ts`, 'bench-attacker': 'bench/attacker.ts' }));
// Loads take minutes; what waits for one gives up later than a test would.
process.env.WINDGAP_SLOWNESS ??= '4';
process.exit(run('node', [`dist/bench-${entry}.mjs`]));
