/**
 * Things go wrong at random, for as long as is wanted: `npm run chaos -- --minutes 30 --seed 7`. Whoever may mount a file
 * system gets a full disk, too. With names of test files instead, those that kill processes do so as often as time allows.
 */
import { mkdirSync, rmSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { run, say } from './lib.mjs';
import { ensureReady } from './ready.mjs';

const { values, positionals } = parseArgs({
  options: { minutes: { type: 'string' }, seed: { type: 'string' } },
  allowPositionals: true,
});
const seed = values.seed ?? String(1 + Math.floor(Math.random() * 1e6));
const minutes = values.minutes ?? '10';

await ensureReady();
process.env.WINDGAP_CHAOS = '1';
process.env.WINDGAP_SLOWNESS ??= '3';
let files = positionals;
let disk;
if (files.length === 0) {
  disk = smallDisk();
  if (disk) process.env.WINDGAP_CHAOS_DISK = `${disk}/data`;
  process.env.WINDGAP_CHAOS_MINUTES = minutes;
  process.env.WINDGAP_CHAOS_SEED = seed;
  files = ['tests/chaos/chaos.test.ts'];
  say(
    `${minutes} minutes with seed ${seed}${disk ? '' : '; no file system could be mounted, so the disk is never full'}`,
  );
} else say(`killing at length: ${files.join(', ')}`);
const code = run('npx', ['--no-install', 'vitest', 'run', '-c', 'vitest.wires.config.ts', ...files]);
if (disk) {
  run('umount', [disk]);
  rmSync(disk, { recursive: true, force: true });
}
process.exit(code);

/** A file system in memory that is soon full, where this may be made; undefined elsewhere. */
function smallDisk() {
  const folder = `/tmp/windgap-disk-${process.pid}`;
  mkdirSync(folder, { recursive: true });
  if (run('mount', ['-t', 'tmpfs', '-o', 'size=900m', 'tmpfs', folder], { stdio: 'ignore' }) === 0) return folder;
  rmSync(folder, { recursive: true });
  return undefined;
}
