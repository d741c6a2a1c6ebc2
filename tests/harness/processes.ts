/** Starts and kills the real processes for tests and benchmarks, each set in a folder and on ports of its own. */
import { type ChildProcess, spawn } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoWorld } from '../../demo/world';
import { LIMITS } from '../../src/core/limits/limits';
import {
  type AppContext,
  configFromEnvironment,
  openAppContext,
  wakeUpPath,
} from '../../src/operations/context/appContext';
import { somebodyListens } from '../../src/operations/context/engineWakeUp';
import { BenchClient } from './benchClient';
import { SLOWNESS, until } from './until';

export const ROOT = process.cwd();

/** Micro-units; for loads that would use up what an account has. */
const UNENDING_CREDIT = 1e12;

export interface Installation {
  folder: string;
  origin: string;
  env: Record<string, string>;
  world: ReturnType<typeof demoWorld>;
  bench: BenchClient;
  /** Windgap opened in this process on the same data, to set up and to look. */
  ctx: AppContext;
  web?: ChildProcess;
  engine?: ChildProcess;
  startWeb(): Promise<void>;
  startEngine(): Promise<void>;
  /** Ends the outside as a power cut would, and starts it again. */
  restartStandins(): Promise<void>;
  stop(): Promise<void>;
}

interface Options {
  web?: boolean;
  engine?: boolean;
  env?: Record<string, string>;
  /** The name it is opened under; browsers keep passkeys for names alone. */
  host?: 'localhost';
  /** Further connector profiles, by file name. */
  profiles?: Record<string, string>;
  /** With the limits on sending of a new installation; a load and many tests text the same few numbers over and over. */
  limited?: boolean;
  /** Texts a second the simulated provider takes. */
  perSecond?: number;
  /** Changes the outside before it starts. */
  outside?(world: ReturnType<typeof demoWorld>): void;
}

/** No limit on what is sent, to every country that has numbers for fiction. */
async function liftLimits(ctx: AppContext): Promise<void> {
  await ctx.store.write(async (unit) => {
    const none = Object.fromEntries(LIMITS.map(({ name }) => [name, null]));
    await unit.settings.put({ name: 'sending-limits', value: none });
    await unit.settings.put({ name: 'countries-before', value: ['AU', 'FR', 'GB', 'SE', 'US'] });
  });
}

/** The whole of it: stand-ins, web and engine. Windgap's database is empty. */
export async function startInstallation(options: Options = {}): Promise<Installation> {
  const folder = mkdtempSync(join(tmpdir(), 'windgap-'));
  const names = Object.keys(demoWorld(0).ports) as (keyof ReturnType<typeof demoWorld>['ports'])[];
  const [port = 0, ...others] = await freePorts(names.length + 1);
  const ports = Object.fromEntries(names.map((name, index) => [name, others[index]])) as Record<
    (typeof names)[number],
    number
  >;
  const benchPort = ports.bench;
  const world = { ...demoWorld(benchPort), ports };
  for (const account of world.accounts) {
    account.perSecond = options.perSecond ?? 30;
    if (options.perSecond) account.credit = UNENDING_CREDIT;
  }
  options.outside?.(world);
  const worldFile = join(folder, 'world.json');
  for (const [name, text] of Object.entries(options.profiles ?? {})) writeFileSync(join(folder, name), text);

  const origin = `http://${options.host ?? '127.0.0.1'}:${port}`;
  world.bollard.returns = [`${origin}/sign-in/provider/back`];
  writeFileSync(worldFile, JSON.stringify(world));
  const env = {
    WINDGAP_HOME: ROOT,
    WINDGAP_DATA: join(folder, 'data'),
    WINDGAP_PUBLIC_URL: origin,
    WINDGAP_ALLOW_PRIVATE: '1',
    WINDGAP_NAME_SERVERS: `127.0.0.1:${ports.fennickNames}`,
    WINDGAP_BENCH_URL: `http://127.0.0.1:${benchPort}`,
    WINDGAP_BENCH_CLOCK: `${worldFile}.clock`,
    WINDGAP_LOG: process.env.WINDGAP_LOG ?? 'fatal',
    WINDGAP_PROFILES: folder,
    PORT: String(port),
    NODE_ENV: 'production',
    UV_THREADPOOL_SIZE: '8',
    ...options.env,
  };
  mkdirSync(env.WINDGAP_DATA, { mode: 0o700 });
  copyFileSync(await preparedDatabase(), join(env.WINDGAP_DATA, 'windgap.db'));
  let standins = launch(['dist/standins.mjs', worldFile], env);
  const bench = new BenchClient(env.WINDGAP_BENCH_URL);
  await untilAnswers(env.WINDGAP_BENCH_URL);
  const ctx = await openAppContext(configFromEnvironment(env as unknown as NodeJS.ProcessEnv), 'test');
  if (!options.limited) await liftLimits(ctx);

  const installation: Installation = {
    folder,
    origin,
    env,
    world,
    bench,
    ctx,
    async startWeb() {
      installation.web = launch(['dist/web.mjs'], env);
      await untilAnswers(`${origin}/health`);
    },
    async startEngine() {
      installation.engine = launch(['dist/engine.mjs'], env);
      await Promise.resolve();
    },
    async restartStandins() {
      await killHard(standins);
      standins = launch(['dist/standins.mjs', worldFile], env);
      await untilAnswers(env.WINDGAP_BENCH_URL);
    },
    async stop() {
      await Promise.all([end(installation.web), end(installation.engine), end(standins)]);
      ctx.engineWakeUp.close();
      await ctx.store.close();
      rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
    },
  };
  try {
    await Promise.all([
      options.web === false || installation.startWeb(),
      options.engine === false || installation.startEngine().then(() => untilWorking(ctx)),
    ]);
    return installation;
  } catch (error) {
    // Nobody else knows of it yet.
    await installation.stop();
    throw error;
  }
}

/** An empty database with all tables, made once for each build and copied by every installation after that. */
async function preparedDatabase(): Promise<string> {
  const built = Math.round(statSync(join(ROOT, 'dist/engine.mjs')).mtimeMs);
  const file = join(tmpdir(), `windgap-empty-${built}.db`);
  if (existsSync(file)) return file;
  const folder = mkdtempSync(join(tmpdir(), 'windgap-'));
  const config = configFromEnvironment({ WINDGAP_HOME: ROOT, WINDGAP_DATA: folder, WINDGAP_LOG: 'fatal' } as never);
  const ctx = await openAppContext(config, 'prepare');
  await ctx.store.close();
  // Whole or not at all, also while another worker makes the same.
  renameSync(join(folder, 'windgap.db'), file);
  rmSync(folder, { recursive: true, force: true });
  return file;
}

/** What a failed test left running would slow the next ones, so it ends with the process that started it. */
const launched = new Set<ChildProcess>();
const endLaunched = () => {
  for (const child of launched) child.kill('SIGKILL');
};
process.once('exit', endLaunched);
process.once('SIGTERM', () => {
  endLaunched();
  process.exit();
});

function launch(args: string[], env: Record<string, string>): ChildProcess {
  const verbose = process.env.WINDGAP_TEST_OUTPUT === '1';
  const child = spawn(process.execPath, args, {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: verbose ? 'inherit' : 'ignore',
  });
  launched.add(child);
  child.once('exit', () => launched.delete(child));
  return child;
}

/** Ends a process at once, as a power cut would, and waits until it is gone. */
export async function killHard(handle: ChildProcess | undefined): Promise<void> {
  await signal(handle, 'SIGKILL');
}

export async function end(handle: ChildProcess | undefined): Promise<void> {
  await signal(handle, 'SIGTERM');
}

async function signal(handle: ChildProcess | undefined, name: NodeJS.Signals): Promise<void> {
  if (!handle || handle.exitCode !== null || handle.signalCode !== null) return;
  await new Promise<void>((resolve) => {
    const timer = setTimeout(() => handle.kill('SIGKILL'), 12_000 * SLOWNESS);
    handle.once('exit', () => {
      clearTimeout(timer);
      resolve();
    });
    handle.kill(name);
  });
}

/**
 * Below the ports that outgoing connections are given: one of those can be taken between being found free and being
 * listened at. Each worker has a range of its own and goes through it in turn, so that installations started at once
 * do not find the same.
 */
const FIRST_PORT = 12_000 + 3000 * Number(process.env.VITEST_POOL_ID ?? 0);
const PORTS_EACH = 3000;
let nextPort = (process.pid * 40) % PORTS_EACH;

export async function freePorts(count: number): Promise<number[]> {
  const ports: number[] = [];
  while (ports.length < count) {
    const port = FIRST_PORT + (nextPort++ % PORTS_EACH);
    if (await isFree(port)) ports.push(port);
  }
  return ports;
}

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

async function untilAnswers(url: string): Promise<void> {
  await until(`${url} answers`, async () => (await fetch(url).catch(() => undefined))?.ok);
}

/** What is sent before the engine works waits for it, and would be measured as slow. */
async function untilWorking({ config }: AppContext): Promise<void> {
  await until('the engine works', () => somebodyListens(wakeUpPath(config)));
}

/** Brackwater's profile with one thing changed. */
export function brackwaterProfile(id: string, change: (text: string) => string): string {
  const text = readFileSync(join(ROOT, 'src/connectors/profiles/brackwater.yaml'), 'utf8');
  const changed = change(text.replace('id: brackwater', `id: ${id}`));
  if (changed === text) throw new Error('The profile was to be changed and is the same');
  return changed;
}
