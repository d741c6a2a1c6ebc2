/** What several checks look at, read once for each examination and only when a check asks. */
import { type AppSummary, listApps } from '../../apps';
import { type AppContext, SYSTEM } from '../../context';
import { publishedSet } from '../../routes';
import { type InstallationTraffic, installationTraffic } from '../readinessTraffic';

export interface SetUp {
  ctx: AppContext;
  /** Epoch milliseconds of the whole examination. */
  now: number;
  apps: () => Promise<AppSummary[]>;
  /** The routes that decide now, and their revision; 0 before the first. */
  published: () => ReturnType<typeof publishedSet>;
  traffic: () => Promise<InstallationTraffic>;
}

export function readSetUp(ctx: AppContext): SetUp {
  return {
    ctx,
    now: ctx.now(),
    apps: once(() => listApps(ctx, SYSTEM)),
    published: once(() => publishedSet(ctx)),
    traffic: once(() => installationTraffic(ctx)),
  };
}

function once<Value>(read: () => Promise<Value>): () => Promise<Value> {
  let reading: Promise<Value> | undefined;
  return () => {
    reading ??= read();
    return reading;
  };
}
