/**
 * Everything that must hold, from a clean clone: types, lint and boundaries, build, unit
 * tests, tests over real wires, browser tests. Ends on one line summed from the reports.
 * `npm test -- unit`, `wires` or `browser` runs one part. What waits runs beside what computes.
 */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CHROMIUM_PATH, HEADLESS_SHELL } from './chromium.mjs';
import { ROOT, run, say, started } from './lib.mjs';
import { ensureBuilt, ensureCompiled, ensurePackages } from './ready.mjs';

const PARTS = ['unit', 'wires', 'browser'];
/** Installations the browser tests share among themselves, each with a share of the files. */
const BROWSERS = [1, 2];
/** Debian's mail server. */
const DOVECOT = '/usr/sbin/dovecot';
/** Ports the simulated outside of an installation takes. */
const BENCH_PORTS = 111;

const wanted = process.argv.slice(2);
const unknown = wanted.find((part) => !PARTS.includes(part));
if (unknown !== undefined) {
  say(`there is no part “${unknown}”; there are ${PARTS.join(', ')}.`);
  process.exit(1);
}
const parts = new Set(wanted.length > 0 ? wanted : PARTS);

const startedAt = Date.now();
ensurePackages();
rmSync(join(ROOT, 'reports'), { recursive: true, force: true });
mkdirSync(join(ROOT, 'reports'));
const scratch = memoryFolder();
if (scratch) process.env.TMPDIR = scratch;
say(`databases of the tests stand ${scratch ? 'in memory' : 'on the disk'}`);

const totals = { passed: 0, failed: 0, skipped: 0 };
/** How long each test took, in milliseconds. */
const durations = [];

const overWires = parts.has('wires') || parts.has('browser');
const compiling = overWires ? ensureCompiled() : undefined;
const fetching = systemPackages();
const building = overWires ? ensureBuilt() : undefined;
if (parts.has('unit')) {
  // The compiler keeps one core busy, so all that needs neither SQLite nor a browser goes beside it.
  say('types, lint, boundaries and unit tests, beside the build …');
  await check('types', ['tsc', '--noEmit']);
  await check('lint', ['biome', 'check', '.']);
  await check('boundaries', ['depcruise', '--config', '.dependency-cruiser.cjs', 'src', 'standins', 'demo']);
  await fetching;
  await vitest('unit', []);
}
await Promise.all([fetching, compiling, building]);
const readyAt = Date.now();

if (overWires) {
  process.env.WINDGAP_SLOWNESS ??= String(measuredSlowness());
  say(`bounds against hanging are those of a machine ${process.env.WINDGAP_SLOWNESS} times slower than usual`);
  say(`${[...parts].filter((part) => part !== 'unit').join(' and ')}, with the real processes over real wires …`);
  await Promise.all([
    parts.has('wires') && vitest('wires', ['-c', 'vitest.wires.config.ts']),
    ...(parts.has('browser') ? BROWSERS.map(browser) : []),
  ]);
}

durations.sort((a, b) => b.ms - a.ms);
say('the slowest:');
for (const { ms, name } of durations.slice(0, 10)) console.log(`  ${(ms / 1000).toFixed(1).padStart(6)} s  ${name}`);
say(
  `${seconds(readyAt - startedAt)} s until all was built${parts.has('unit') ? ', unit tests beside it' : ''}; ${seconds(Date.now() - readyAt)} s of tests after that`,
);
console.log(`${totals.passed} passed, ${totals.failed} failed${totals.skipped ? `, ${totals.skipped} skipped` : ''}`);
if (scratch) rmSync(scratch, { recursive: true, force: true });
process.exit(totals.failed > 0 || totals.skipped > 0 ? 1 : 0);

function seconds(ms) {
  return Math.round(ms / 1000);
}

/**
 * How many times longer than usual it takes here to start a process with the application's
 * code in it, now that everything is built: at least 1, in halves.
 */
function measuredSlowness() {
  const USUAL = 1200;
  const world = join(scratch ?? tmpdir(), `windgap-measure-${process.pid}.json`);
  const began = performance.now();
  run('node', ['dist/seed.mjs', 'world', world, '1'], { stdio: 'ignore' });
  const took = performance.now() - began;
  rmSync(world, { force: true });
  return Math.max(1, Math.ceil((took / USUAL) * 2) / 2);
}

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

async function vitest(name, options) {
  const report = join(ROOT, 'reports', `${name}.json`);
  const reporters = ['--reporter=./scripts/vitestReporter.mjs', '--reporter=json', `--outputFile.json=${report}`];
  const code = await npx(['vitest', 'run', ...options, ...reporters]);
  if (!existsSync(report)) return countBroken(name);
  const { numPassedTests, numFailedTests, numPendingTests, numTodoTests, testResults } = JSON.parse(
    readFileSync(report, 'utf8'),
  );
  totals.passed += numPassedTests;
  totals.failed += numFailedTests;
  totals.skipped += numPendingTests + numTodoTests;
  for (const { name: file, assertionResults } of testResults)
    for (const { fullName, duration } of assertionResults)
      durations.push({ ms: duration ?? 0, name: `${file.slice(ROOT.length + 1)} › ${fullName}` });
  // A file that could not even be loaded has no failed test of its own.
  if (code !== 0 && numFailedTests === 0) countBroken(name);
}

/** One share of the browser tests, with an installation and a data folder of its own. */
async function browser(share) {
  const [port, benchPort] = [await freePorts(3411 + 20 * share, 1), await freePorts(4311 + 200 * share, BENCH_PORTS)];
  await npx(['playwright', 'test'], {
    WINDGAP_E2E_SHARE: String(share),
    WINDGAP_E2E_PORT: String(port),
    WINDGAP_E2E_BENCH_PORT: String(benchPort),
  });
  const report = join(ROOT, 'reports', `browser-${share}.json`);
  if (!existsSync(report)) return countBroken(`browser ${share}`);
  const { stats, errors, suites } = JSON.parse(readFileSync(report, 'utf8'));
  totals.passed += stats.expected;
  totals.failed += stats.unexpected + stats.flaky;
  totals.skipped += stats.skipped;
  for (const { file, title, tests } of suites.flatMap(specsOf))
    for (const { results } of tests)
      durations.push({ ms: results.reduce((sum, { duration }) => sum + duration, 0), name: `e2e/${file} › ${title}` });
  if (errors.length > 0 && stats.unexpected === 0) countBroken(`browser ${share}`);
}

/** The first of so many ports in a row on which nothing listens. */
async function freePorts(from, count) {
  for (let base = from; base < 60_000; base += 400) {
    const ports = Array.from({ length: count }, (_, index) => base + index);
    if ((await Promise.all(ports.map(isFree))).every(Boolean)) return base;
  }
  throw new Error(`there are no ${count} free ports in a row`);
}

function isFree(port) {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

function specsOf({ specs = [], suites = [] }) {
  return [...specs, ...suites.flatMap(specsOf)];
}

function countBroken(name) {
  say(`${name}: ended without a usable report`);
  totals.failed += 1;
}

function npx(command, env) {
  return started('npx', ['--no-install', ...command], env);
}

/** Chromium for the browser tests; perl and dovecot as independent witnesses, of the SMS alphabet and of IMAP. */
async function systemPackages() {
  const wanted = [];
  if (parts.has('browser') && !process.env.CHROMIUM && !existsSync(HEADLESS_SHELL))
    wanted.push('chromium-headless-shell');
  if (parts.has('unit') && !hasPerl()) wanted.push('perl');
  if (parts.has('wires') && !existsSync(DOVECOT)) wanted.push('dovecot-imapd');
  if (wanted.length === 0) return;
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    say(`installing ${wanted.join(' and ')} from Debian’s packages …`);
    const install = `apt-get update -qq && apt-get install -y -qq --no-install-recommends ${wanted.join(' ')}`;
    if ((await started('sh', ['-c', install], { DEBIAN_FRONTEND: 'noninteractive' })) === 0) return;
  }
  if (hasPerl() && existsSync(CHROMIUM_PATH) && existsSync(DOVECOT)) return;
  say(`needed, and could not be installed here: ${wanted.join(', ')}. On Debian: apt-get install ${wanted.join(' ')}.`);
  say('Chromium elsewhere? Set CHROMIUM to its path.');
  process.exit(1);
}

function hasPerl() {
  return run('perl', ['-MEncode::GSM0338', '-e', '1'], { stdio: 'ignore' }) === 0;
}
