/** What every operation works with: the store, the outside, the clock and the log of one process. */
import { chmodSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import pino, { type Logger } from 'pino';
import { benchClock } from '../../clock/bench';
import { type Clock, systemClock } from '../../clock/clock';
import { type AppRegistry, loadApps } from '../../connectors/app/appRegistry';
import type { OutboundHttp } from '../../connectors/http/outbound';
import type { Network } from '../../connectors/outside/network';
import { outsideOf } from '../../connectors/outside/outside';
import { type ConnectorRegistry, loadConnectors } from '../../connectors/registry';
import { type ProcessLock, takeProcessLock } from '../../store/processLock';
import { createSealer, keyRingOf, type Sealer } from '../../store/sealing';
import { openStore, type Store, type StoreOptions } from '../../store/store';
import { type Apart, createApart } from '../../workers/apart';
import { createDiskRoom } from './disk/diskRoom';
import { createRefusedBudget, type RefusedBudget } from './disk/refusedBudget';
import { type EngineWakeUp, wakeUpAt } from './engineWakeUp';

export interface Config {
  /** Holds the database, the sealing key and the engine's wake-up socket. */
  dataFolder: string;
  /** Where the outside reaches us, without a trailing slash. */
  publicUrl: string;
  /** Let requests go to private addresses: a demonstration, or apps on the same network. */
  allowPrivateAddresses: boolean;
  /** Whom to ask for records of domains, as `address:port`; none: whom the machine asks. */
  nameServers: string[];
  /** Control address of a bench of simulated handsets, where one is attached. */
  benchUrl: string | undefined;
  /** Where that bench keeps by how much it has moved the clock on. Without it the machine's time is the time. */
  clockFile: string | undefined;
  /** What threads for untrusted input run. */
  workerFile: string;
  profileFolders: string[];
  appProfileFolder: string;
  /** Where sheets are dropped and kept. */
  sheetsFolder: string;
  /** Addresses and networks (CIDR) of proxies in front of us, whose word on who calls is taken. */
  trustedProxies: string[];
  /** API calls of one key. */
  callsPerMinute: number;
  /** The present key, and former ones after it. */
  sealingKey: string | undefined;
  /** What cookies of known browsers are sealed with; a file where none is given. */
  sessionKey: string | undefined;
  logLevel: string;
}

export interface AppContext {
  config: Config;
  store: Store;
  sealer: Sealer;
  /** What cookies are sealed with: apart from the key that seals secrets, so that either is replaced without the other. */
  sessionKey(): string;
  connectors: ConnectorRegistry;
  apps: AppRegistry;
  http: OutboundHttp;
  /** Whom may be connected to. */
  network: Network;
  /** Works through what may cost more than its size. */
  apart: Apart;
  engineWakeUp: EngineWakeUp;
  log: Logger;
  /** What is kept of posts that nobody signed. */
  refused: RefusedBudget;
  /** Bytes the disk has left. */
  diskRoom(): number;
  clock: Clock;
  /** Of the clock: epoch milliseconds. */
  now(): number;
}

export function configFromEnvironment(env: NodeJS.ProcessEnv): Config {
  const home = env.WINDGAP_HOME ?? process.cwd();
  const port = env.PORT ?? '3000';
  return {
    dataFolder: env.WINDGAP_DATA ?? join(home, 'data'),
    publicUrl: (env.WINDGAP_PUBLIC_URL ?? `http://localhost:${port}`).replace(/\/$/, ''),
    allowPrivateAddresses: env.WINDGAP_ALLOW_PRIVATE === '1',
    nameServers: (env.WINDGAP_NAME_SERVERS ?? '').split(/[\s,]+/).filter(Boolean),
    benchUrl: env.WINDGAP_BENCH_URL,
    clockFile: env.WINDGAP_BENCH_CLOCK,
    workerFile: join(home, 'dist/worker.mjs'),
    profileFolders: [join(home, 'src/connectors/profiles'), ...(env.WINDGAP_PROFILES ? [env.WINDGAP_PROFILES] : [])],
    appProfileFolder: join(home, 'src/connectors/appProfiles'),
    sheetsFolder: env.WINDGAP_SHEETS ?? join(env.WINDGAP_DATA ?? join(home, 'data'), 'sheets'),
    trustedProxies: (env.WINDGAP_TRUSTED_PROXIES ?? '').split(/[\s,]+/).filter(Boolean),
    callsPerMinute: Number(env.WINDGAP_CALLS_PER_MINUTE ?? 6000),
    sealingKey: env.WINDGAP_KEY,
    sessionKey: env.WINDGAP_SESSION_KEY,
    logLevel: env.WINDGAP_LOG ?? 'info',
  };
}

export async function openAppContext(
  config: Config,
  processName: string,
  options: StoreOptions = {},
): Promise<AppContext> {
  closedFolder(config.dataFolder);
  mkdirSync(config.sheetsFolder, { recursive: true });
  const clock = config.clockFile ? benchClock(config.clockFile) : systemClock;
  const outside = outsideOf({ allowPrivate: config.allowPrivateAddresses, nameServers: config.nameServers, clock });
  const { http, network } = outside;
  const sessionKeys = keyRingOf(join(config.dataFolder, 'session.key'), config.sessionKey);
  const diskRoom = createDiskRoom(config.dataFolder, clock.now);
  return {
    config,
    store: await openStore(join(config.dataFolder, 'windgap.db'), { ...options, clock }),
    sealer: createSealer(keyRingOf(join(config.dataFolder, 'sealing.key'), config.sealingKey)),
    sessionKey: () => sessionKeys()[0]?.bytes.toString('hex') ?? '',
    connectors: loadConnectors(config.profileFolders, outside),
    apps: loadApps(config.appProfileFolder, http, clock),
    http,
    network,
    apart: createApart(config.workerFile, { clock }),
    engineWakeUp: wakeUpAt(wakeUpPath(config), clock),
    refused: createRefusedBudget(clock.now, diskRoom),
    diskRoom,
    log: pino({ level: config.logLevel, name: processName }),
    clock,
    now: clock.now,
  };
}

/** Nobody else on the machine looks into it, whoever made it. Where it is not ours to close, it stays as it is. */
function closedFolder(path: string): void {
  mkdirSync(path, { recursive: true, mode: 0o700 });
  try {
    chmodSync(path, 0o700);
  } catch {
    // Somebody else's folder that was given to us.
  }
}

/** The one engine of an installation holds this; undefined while another does. */
export function lockEngine(config: Config): Promise<ProcessLock | undefined> {
  return takeProcessLock(join(config.dataFolder, 'engine.lock'));
}

export function wakeUpPath(config: Config): string {
  return join(config.dataFolder, 'engine.sock');
}
