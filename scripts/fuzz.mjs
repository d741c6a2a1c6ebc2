/**
 * Tries every parser of outside input on inputs nobody planned: `npm run fuzz -- --minutes 10 --seed 7`. With `--rounds`
 * it tries the properties of the unit tests instead, each round on cases of its own; WINDGAP_SEED repeats one.
 */
import { parseArgs } from 'node:util';
import { build } from 'esbuild';
import { bundleOf, FUZZ } from './bundle.mjs';
import { run, say } from './lib.mjs';
import { ensurePackages } from './ready.mjs';

ensurePackages();
const { values, positionals } = parseArgs({
  options: {
    minutes: { type: 'string' },
    seed: { type: 'string' },
    slowness: { type: 'string' },
    rounds: { type: 'string' },
  },
  allowPositionals: true,
});
if (values.rounds === undefined && !process.env.WINDGAP_SEED) {
  await build(bundleOf(FUZZ));
  const given = Object.entries(values).flatMap(([name, value]) => [`--${name}`, value]);
  process.exit(run('node', ['--enable-source-maps', 'dist/fuzz.mjs', ...given]));
}
const first = Number(process.env.WINDGAP_SEED ?? Math.floor(Math.random() * 2 ** 30));
const rounds = process.env.WINDGAP_SEED ? 1 : Number(values.rounds);
for (let round = 0; round < rounds; round++) {
  const seed = String(first + round);
  say(`round ${round + 1} of ${rounds}, seed ${seed}`);
  const reporter = '--reporter=./scripts/vitestReporter.mjs';
  const code = run('npx', ['--no-install', 'vitest', 'run', reporter, ...positionals], {
    env: { ...process.env, WINDGAP_SEED: seed },
  });
  if (code === 0) continue;
  say(`seed ${seed} failed; WINDGAP_SEED=${seed} repeats it`);
  process.exit(code);
}
say(`${rounds} rounds passed`);
