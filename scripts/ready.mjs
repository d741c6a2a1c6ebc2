/** Brings a clone to where it can run: packages, the compiled part of SQLite, the build; each only when stale. */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { must, ROOT, run, say, started } from './lib.mjs';

const LOCK_FILE = join(ROOT, 'package-lock.json');
const INSTALLED = join(ROOT, 'node_modules', '.windgap-lock');
const COMPILED = join(ROOT, 'node_modules', '.windgap-compiled');
const BUILT = join(ROOT, 'dist', '.built');

/** Everything. The build does not wait for the compiler. */
export async function ensureReady() {
  ensurePackages();
  const compiling = ensureCompiled();
  await ensureBuilt();
  await compiling;
}

/**
 * The files of all packages, as the lock file names them. Not `npm ci`: it refuses a lock
 * file made where a registry does not carry the binaries of every other platform.
 */
export function ensurePackages() {
  const [major] = process.versions.node.split('.').map(Number);
  if (major < 20) {
    say(`Node 20.17 or newer is needed; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = hash(readFileSync(LOCK_FILE));
  if (isMarked(INSTALLED, lock)) return;
  say('installing packages …');
  must('npm install', run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--ignore-scripts']));
  mark(INSTALLED, lock);
}

/** What the packages compile on this machine, which is SQLite. */
export async function ensureCompiled() {
  const state = `${hash(readFileSync(LOCK_FILE))} ${process.versions.modules} ${process.platform} ${process.arch}`;
  if (isMarked(COMPILED, state)) return;
  say('compiling SQLite, about two minutes on a small machine …');
  must('npm rebuild', await started('npm', ['rebuild']));
  mark(COMPILED, state);
}

export async function ensureBuilt() {
  const state = sourceState();
  if (isMarked(BUILT, state)) return;
  must('the build', await started('node', ['scripts/build.mjs']));
  mark(BUILT, state);
}

function isMarked(marker, state) {
  return existsSync(marker) && readFileSync(marker, 'utf8') === state;
}

function mark(marker, state) {
  mkdirSync(dirname(marker), { recursive: true });
  writeFileSync(marker, state);
}

/** Changes with every source file. */
function sourceState() {
  const files = ['package-lock.json', 'next.config.ts', 'tsconfig.json', 'scripts/build.mjs', 'scripts/bundle.mjs']
    .map((name) => join(ROOT, name))
    .concat(['src', 'standins', 'demo', 'public'].flatMap((name) => filesIn(join(ROOT, name))));
  return hash(
    files
      .sort()
      .map((file) => `${file} ${statSync(file).mtimeMs}`)
      .join('\n'),
  );
}

function filesIn(folder) {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && !/\.test\.tsx?$/.test(entry.name))
    .map((entry) => join(entry.parentPath ?? entry.path, entry.name));
}

function hash(content) {
  return createHash('sha256').update(content).digest('hex');
}
