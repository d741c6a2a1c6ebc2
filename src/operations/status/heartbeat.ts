/**
 * A heartbeat: a post to an outside address every few minutes while the engine works, so that somebody notices when
 * Windgap itself falls silent. What it is posted to has to complain when it does not come; Windgap cannot.
 */
import { HEARTBEAT_LAST, type HeartbeatLast } from '../../core/installationStatus';
import {
  type Actor,
  type AppContext,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../context';
import { readStatus } from './installationStatus';

const SETTING = 'heartbeat';
const TIMEOUT_MS = 10_000;
const MINUTE = 60_000;
const MOST_MINUTES = 60;
/** The setting is read so often. */
const READ_EVERY = 5000;
/** What fails is tried again sooner. */
const AGAIN_AFTER = 30_000;

interface Kept {
  /** Often it holds the word by which it is taken. */
  sealed: string;
  everyMinutes: number;
}

export interface HeartbeatView {
  host: string;
  everyMinutes: number;
  last?: HeartbeatLast;
}

async function kept(ctx: AppContext): Promise<Kept | undefined> {
  return (await ctx.store.settings.one({ name: SETTING }))?.value as Kept | undefined;
}

export async function viewHeartbeat(ctx: AppContext, actor: Actor): Promise<HeartbeatView | undefined> {
  requireRole(actor, 'administrator');
  const now = await kept(ctx);
  if (!now) return undefined;
  const last = (await ctx.store.settings.one({ name: HEARTBEAT_LAST }))?.value as HeartbeatLast | undefined;
  return {
    host: new URL(ctx.sealer.open<string>(now.sealed)).host,
    everyMinutes: now.everyMinutes,
    ...(last ? { last } : {}),
  };
}

/** An empty address leaves the one that is set. */
export async function setHeartbeat(
  ctx: AppContext,
  actor: Actor,
  { url, everyMinutes }: { url: string; everyMinutes: string },
): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const before = await kept(ctx);
  const address = url.trim() || (before ? ctx.sealer.open<string>(before.sealed) : '');
  const minutes = Number(everyMinutes);
  if (!(URL.canParse(address) && /^https?:$/.test(new URL(address).protocol)))
    throw invalidText('url', 'This is no web address.', 'It begins with https://.');
  if (!(Number.isInteger(minutes) && minutes >= 1 && minutes <= MOST_MINUTES))
    throw invalidText('everyMinutes', 'That is no number of minutes.', `From 1 to ${MOST_MINUTES}.`);
  const value: Kept = { sealed: ctx.sealer.seal(address), everyMinutes: minutes };
  await keep(ctx, actor, value, `Posts a heartbeat to ${new URL(address).host} every ${minutes} min`);
}

export async function endHeartbeat(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await keep(ctx, actor, undefined, 'Posts no heartbeat');
}

async function keep(ctx: AppContext, actor: Actor, value: Kept | undefined, summary: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    if (value) await unit.settings.put({ name: SETTING, value });
    else await unit.settings.remove({ name: SETTING });
    await unit.settings.remove({ name: HEARTBEAT_LAST });
    await recordAudit(unit, actor, at, {
      action: value ? 'heartbeat.set' : 'heartbeat.ended',
      subject: SETTING,
      summary,
    });
    await noteChanges(unit, at, [['readiness', SETTING]]);
  });
}

/** Posts one now. Returns what came of it. */
export async function beatNow(ctx: AppContext, actor: Actor): Promise<HeartbeatLast> {
  requireRole(actor, 'administrator');
  const now = await kept(ctx);
  if (!now) throw new OperationError('conflict', 'There is no address for a heartbeat.');
  return beat(ctx, now);
}

async function beat(ctx: AppContext, { sealed }: Kept): Promise<HeartbeatLast> {
  const url = ctx.sealer.open<string>(sealed);
  const { name, status, broken, at } = await readStatus(ctx);
  const said = await ctx
    .http({
      method: 'POST',
      url,
      headers: { 'content-type': 'application/json', 'user-agent': 'windgap' },
      body: JSON.stringify({
        type: 'windgap.heartbeat',
        at: new Date(at).toISOString(),
        name,
        state: status,
        broken,
      }),
      timeoutMs: TIMEOUT_MS,
      largest: 64 * 1024,
    })
    .then(({ status }) => (status >= 200 && status < 300 ? undefined : `it answered ${status}`))
    .catch((error: unknown) => (error as Error).message);
  const before = (await ctx.store.settings.one({ name: HEARTBEAT_LAST }))?.value as HeartbeatLast | undefined;
  const takenAt = said === undefined ? ctx.now() : before?.takenAt;
  const last: HeartbeatLast = {
    at: ctx.now(),
    failures: said === undefined ? 0 : (before?.failures ?? 0) + 1,
    host: new URL(url).host,
    ...(takenAt === undefined ? {} : { takenAt }),
    ...(said === undefined ? {} : { said }),
  };
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: HEARTBEAT_LAST, value: last });
    if ((before?.failures ?? 0) > 0 || last.failures > 0) await noteChanges(unit, last.at, [['readiness', SETTING]]);
  });
  return last;
}

/** The engine’s part. */
export function createHeartbeat(ctx: AppContext): { round(): Promise<number | undefined> } {
  let readAt = Number.NEGATIVE_INFINITY;
  return {
    async round() {
      const now = ctx.now();
      if (Math.abs(now - readAt) < READ_EVERY) return undefined;
      readAt = now;
      const set = await kept(ctx);
      if (!set) return undefined;
      const last = (await ctx.store.settings.one({ name: HEARTBEAT_LAST }))?.value as HeartbeatLast | undefined;
      const wait = last && last.failures > 0 ? AGAIN_AFTER : set.everyMinutes * MINUTE;
      if (last && now - last.at < wait && now >= last.at) return undefined;
      await beat(ctx, set);
      return undefined;
    },
  };
}
