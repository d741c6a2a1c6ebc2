/** Tries the properties of the unit tests on cases of their own, and on far more of them. WINDGAP_SEED repeats a run. */
import { run, say } from './lib.mjs';
import { ensurePackages } from './ready.mjs';

ensurePackages();
process.env.WINDGAP_SEED ??= String(Math.floor(Math.random() * 2 ** 31));
process.env.WINDGAP_FUZZ_TIMES ??= '20';
say(`seed ${process.env.WINDGAP_SEED}, ${process.env.WINDGAP_FUZZ_TIMES} times as many cases`);
const code = run('npx', ['--no-install', 'vitest', 'run', ...process.argv.slice(2)]);
say(`seed ${process.env.WINDGAP_SEED} ${code === 0 ? 'passed' : 'failed: WINDGAP_SEED repeats it'}`);
process.exit(code);
