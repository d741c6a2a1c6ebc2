/**
 * Tries the properties of the unit tests on cases of their own, round after round, until one
 * fails or WINDGAP_FUZZ_ROUNDS are over. WINDGAP_SEED repeats a round.
 */
import { run, say } from './lib.mjs';
import { ensurePackages } from './ready.mjs';

ensurePackages();
const first = Number(process.env.WINDGAP_SEED ?? Math.floor(Math.random() * 2 ** 30));
const rounds = process.env.WINDGAP_SEED ? 1 : Number(process.env.WINDGAP_FUZZ_ROUNDS ?? 10);
for (let round = 0; round < rounds; round++) {
  const seed = String(first + round);
  say(`round ${round + 1} of ${rounds}, seed ${seed}`);
  const reporter = '--reporter=./scripts/vitestReporter.mjs';
  const code = run('npx', ['--no-install', 'vitest', 'run', reporter, ...process.argv.slice(2)], {
    env: { ...process.env, WINDGAP_SEED: seed },
  });
  if (code === 0) continue;
  say(`seed ${seed} failed; WINDGAP_SEED=${seed} repeats it`);
  process.exit(code);
}
say(`${rounds} rounds passed`);
