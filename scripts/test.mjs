/**
 * Everything that must hold, from a clean clone: types, lint and boundaries, build, unit
 * tests, tests over real wires, browser tests. Ends on one line summed from the reports.
 * What spends its time waiting runs beside what computes.
 */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { join } from 'node:path';
import { CHROMIUM_PATH, HEADLESS_SHELL } from './chromium.mjs';
import { ROOT, run, say, started } from './lib.mjs';
import { ensureBuilt, ensureCompiled, ensurePackages } from './ready.mjs';

const startedAt = Date.now();
ensurePackages();
rmSync(join(ROOT, 'reports'), { recursive: true, force: true });
mkdirSync(join(ROOT, 'reports'));

const scratch = memoryFolder();
if (scratch) process.env.TMPDIR = scratch;
say(`databases of the tests stand ${scratch ? 'in memory' : 'on the disk'}`);

const WIRES = ['-c', 'vitest.wires.config.ts'];
const totals = { passed: 0, failed: 0, skipped: 0 };

// The compiler keeps one core busy, so all that needs neither SQLite nor a browser goes beside it.
say('types, lint, boundaries and unit tests, beside the build …');
const compiling = ensureCompiled();
const fetching = systemPackages();
const building = ensureBuilt();
await check('types', ['tsc', '--noEmit']);
await check('lint', ['biome', 'check', '.']);
await check('boundaries', ['depcruise', '--config', '.dependency-cruiser.cjs', 'src', 'standins', 'demo']);
await fetching;
await vitest('unit', []);
await Promise.all([compiling, building]);

say('tests over real wires, with processes that are killed, beside browser tests …');
await Promise.all([vitest('wires', WIRES), npx(['playwright', 'test'])]);
countBrowser();

say('what measures time, by itself …');
await vitest('quiet', WIRES, { WINDGAP_QUIET: '1' });

say(`took ${Math.round((Date.now() - startedAt) / 1000)} s`);
console.log(`${totals.passed} passed, ${totals.failed} failed${totals.skipped ? `, ${totals.skipped} skipped` : ''}`);
if (scratch) rmSync(scratch, { recursive: true, force: true });
process.exit(totals.failed > 0 ? 1 : 0);

/**
 * Where databases and browser profiles of the tests stand: in memory where there is room, so
 * that no test waits for a slow disk. What a killed process wrote is kept there just as well.
 */
function memoryFolder() {
  const memory = '/dev/shm';
  if (!existsSync(memory)) return undefined;
  const { bavail, bsize } = statfsSync(memory);
  return bavail * bsize > 2 * 2 ** 30 ? mkdtempSync(join(memory, 'windgap-tests-')) : undefined;
}

/** A tool without a test report counts as one check. */
async function check(name, command) {
  const code = await npx(command);
  totals[code === 0 ? 'passed' : 'failed'] += 1;
  if (code !== 0) say(`${name}: failed`);
}

async function vitest(name, options, env) {
  const report = join(ROOT, 'reports', `${name}.json`);
  const reporters = ['--reporter=dot', '--reporter=json', `--outputFile.json=${report}`];
  const code = await npx(['vitest', 'run', ...options, ...reporters], env);
  if (!existsSync(report)) return countBroken(name);
  const { numPassedTests, numFailedTests, numPendingTests, numTodoTests } = JSON.parse(readFileSync(report, 'utf8'));
  totals.passed += numPassedTests;
  totals.failed += numFailedTests;
  totals.skipped += numPendingTests + numTodoTests;
  // A file that could not even be loaded has no failed test of its own.
  if (code !== 0 && numFailedTests === 0) countBroken(name);
}

function countBrowser() {
  const report = join(ROOT, 'reports', 'browser.json');
  if (!existsSync(report)) return countBroken('browser');
  const { stats, errors } = JSON.parse(readFileSync(report, 'utf8'));
  totals.passed += stats.expected;
  totals.failed += stats.unexpected + stats.flaky;
  totals.skipped += stats.skipped;
  if (errors.length > 0 && stats.unexpected === 0) countBroken('browser');
}

function countBroken(name) {
  say(`${name}: ended without a usable report`);
  totals.failed += 1;
}

function npx(command, env) {
  return started('npx', ['--no-install', ...command], env);
}

/** Chromium for the browser tests, and perl as an independent witness of the SMS alphabet. */
async function systemPackages() {
  const wanted = [];
  if (!process.env.CHROMIUM && !existsSync(HEADLESS_SHELL)) wanted.push('chromium-headless-shell');
  if (!hasPerl()) wanted.push('perl');
  if (wanted.length === 0) return;
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    say(`installing ${wanted.join(' and ')} from Debian’s packages …`);
    const install = `apt-get update -qq && apt-get install -y -qq --no-install-recommends ${wanted.join(' ')}`;
    if ((await started('sh', ['-c', install], { DEBIAN_FRONTEND: 'noninteractive' })) === 0) return;
  }
  if (hasPerl() && existsSync(CHROMIUM_PATH)) return;
  say(`needed, and could not be installed here: ${wanted.join(', ')}. On Debian: apt-get install ${wanted.join(' ')}.`);
  say('Chromium elsewhere? Set CHROMIUM to its path.');
  process.exit(1);
}

function hasPerl() {
  return run('perl', ['-MEncode::GSM0338', '-e', '1'], { stdio: 'ignore' }) === 0;
}
