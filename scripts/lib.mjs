/** What the commands share: installing what is missing, building what is stale, minding child processes. */
import { spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));
process.env.NEXT_TELEMETRY_DISABLED = '1';

export function say(text) {
  console.log(`windgap: ${text}`);
}

/** Runs a command to its end with its output shown. Answers the exit code. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit', ...options });
  return result.status ?? 1;
}

export function must(what, code) {
  if (code === 0) return;
  say(`${what} failed (exit ${code}).`);
  process.exit(code);
}

/** As `run`, while other work goes on. */
export function started(command, args, env = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', env: { ...process.env, ...env } });
    child.once('exit', (code) => resolve(code ?? 1));
  });
}

/** Refuses early, with the reason, when a port is taken. */
export async function requireFreePort(port) {
  await new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => {
      say(`port ${port} is taken; set another with PORT or stop what uses it.`);
      process.exit(1);
    });
    probe.listen(port, '127.0.0.1', () => probe.close(resolve));
  });
}

/**
 * Keeps processes alive: one that ends is started again, with growing delay while it
 * keeps ending at once. Ctrl-C ends all of them, the web first, and leaves none behind.
 */
export function supervise(children) {
  let stopping = false;
  const running = new Map();

  function start(child, quickEnds = 0) {
    const startedAt = Date.now();
    const handle = spawn(process.execPath, child.args, {
      cwd: ROOT,
      env: { ...process.env, ...child.env },
      stdio: 'inherit',
      detached: true,
    });
    running.set(child.name, handle);
    handle.once('exit', (code, signal) => {
      running.delete(child.name);
      if (stopping) return;
      const quick = Date.now() - startedAt < 5000 ? quickEnds + 1 : 0;
      if (quick > 5) {
        say(`${child.name} keeps ending at once (${signal ?? code}); giving up.`);
        void stop(1);
        return;
      }
      const delay = Math.min(200 * 2 ** quick, 5000);
      say(`${child.name} ended (${signal ?? code}); starting it again in ${delay} ms.`);
      setTimeout(() => !stopping && start(child, quick), delay);
    });
  }

  async function stop(code) {
    if (stopping) return;
    stopping = true;
    for (const child of children) await end(running.get(child.name));
    process.exit(code);
  }

  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));
  for (const child of children) start(child);
}

/** Asks a process to finish; after ten seconds it is ended. */
export function end(handle) {
  if (!handle || handle.exitCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    const timer = setTimeout(() => handle.kill('SIGKILL'), 10_000);
    handle.once('exit', () => {
      clearTimeout(timer);
      resolve();
    });
    handle.kill('SIGTERM');
  });
}

export const NEXT = join('node_modules', 'next', 'dist', 'bin', 'next');

/** The two processes of an installation. */
export function windgapProcesses(port, given) {
  const env = { ...given, NODE_ENV: 'production', PORT: String(port), UV_THREADPOOL_SIZE: '8' };
  return [
    {
      name: 'web',
      args: ['--enable-source-maps', 'dist/web.mjs'],
      env,
    },
    {
      name: 'engine',
      args: ['--enable-source-maps', 'dist/engine.mjs'],
      env,
    },
  ];
}

export async function untilAnswers(url, seconds = 60) {
  for (let tries = 0; tries < seconds * 5; tries++) {
    const answer = await fetch(url).catch(() => undefined);
    if (answer && answer.status < 500) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  throw new Error(`${url} did not answer within ${seconds} s`);
}
