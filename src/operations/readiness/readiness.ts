/** The standing examination of the whole set-up: what the engine found last, weighed by what it endangers. */

import { cause, isCauseCode } from '../../core/delivery/causes';
import { type Examined, type Readiness, type SubjectChange, weigh } from '../../core/readiness/readiness';
import type { AlertRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  asViews,
  invalidText,
  noteChanges,
  reachesPage,
  reachOf,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { examineDisk } from './checks/disk';
import { allParts, examineParts } from './readinessChecks';
import { notMoved, SEEN_SETTING, SILENT_AFTER } from './readinessMonitor';
import { countTraffic, installationTraffic } from './readinessTraffic';

const DAY = 86_400_000;
const CHANGES_DAYS = 14;
const RECOUNT = 1000;

export interface ReadinessView extends Readiness {
  /** When the engine examined the part it examined longest ago; undefined before the first time. */
  examinedAt?: number;
  /** Findings that ended in the last fourteen days, newest first. */
  ended: View<AlertRow>[];
}

/** What the engine found when something last changed. */
export async function getReadiness(ctx: AppContext, actor: Actor): Promise<ReadinessView> {
  requireRole(actor, 'viewer');
  const parts = await ctx.store.readinessParts.all();
  const ended = await ctx.store.select<AlertRow>(
    'SELECT * FROM alerts WHERE closed_at > :since ORDER BY closed_at DESC LIMIT 30',
    { since: ctx.now() - CHANGES_DAYS * DAY },
  );
  const oldest = Math.min(...parts.map(({ at }) => at));
  const reach = await reachOf(ctx.store, actor);
  return {
    ...(await weighed(
      ctx,
      parts.flatMap(({ findings }) => findings).filter(({ subject }) => reachesPage(reach, subject.href ?? '')),
    )),
    ...(parts.length > 0 ? { examinedAt: oldest } : {}),
    ended: asViews(ended.filter(({ href }) => reachesPage(reach, href ?? ''))),
  };
}

/** How many findings are broken or about to lose messages, and whether the engine has fallen silent. */
export async function countErrors(ctx: AppContext): Promise<{ errors: number; engineSilent: boolean; own?: string }> {
  const parts = await ctx.store.readinessParts.all();
  const { open } = await weighed(
    ctx,
    parts.flatMap(({ findings }) => findings),
  );
  // What was set aside has a page and a count of its own.
  const own = open.find(
    ({ subject, severity, code }) => subject.kind === 'engine' && severity === 'error' && code !== 'set-aside',
  );
  return {
    errors: open.filter(({ severity }) => severity === 'error').length,
    engineSilent: open.some(({ code }) => code === 'engine-silent'),
    ...(own ? { own: isCauseCode(own.code) ? cause(own.code).title : own.problem } : {}),
  };
}

/** Examines everything now, for who cannot wait for the engine. */
export async function examineNow(ctx: AppContext): Promise<Readiness> {
  // Counts are kept where they can be; a database that somebody holds is no reason to say nothing.
  await Promise.race([countTraffic(ctx, RECOUNT).catch(() => undefined), ctx.clock.pause(LONGEST_TURN)]);
  const examined = await examineParts(ctx, await allParts(ctx));
  return weighed(ctx, [...examined.values()].flat());
}

async function weighed(ctx: AppContext, examined: readonly Examined[]): Promise<Readiness> {
  const now = ctx.now();
  const [changes, mutes, traffic, engine, room] = await Promise.all([
    ctx.store.select<SubjectChange>(
      `SELECT subject_id AS subject, at, actor_name AS by, summary FROM audit_entries WHERE at > :since ORDER BY id DESC LIMIT 1000`,
      { since: now - CHANGES_DAYS * DAY },
    ),
    ctx.store.select<{ key: string; reason: string; by: string; until: number }>('SELECT * FROM readiness_mutes'),
    installationTraffic(ctx),
    engineFindings(ctx),
    examineDisk(ctx),
  ]);
  return weigh([...engine, ...room, ...examined], {
    changes,
    mutes,
    traffic: traffic.perDay,
    now,
  });
}

/** An engine that has never run is somebody setting up; one that has fallen silent loses time. */
async function engineFindings(ctx: AppContext): Promise<Examined[]> {
  const seen = (await ctx.store.settings.one({ name: SEEN_SETTING }))?.value as number | undefined;
  if (seen === undefined || notMoved(ctx) - seen < SILENT_AFTER) return [];
  // An engine that cannot write is not heard of either, and is not the one to start.
  const code = (await isWritable(ctx)) ? 'engine-silent' : 'database-locked';
  const { explain, remedy } = cause(code);
  return [
    {
      code,
      severity: 'error',
      problem: explain({}),
      remedy,
      subject: { kind: 'engine', id: 'engine', name: 'The engine', href: '/' },
      since: seen + ctx.clock.ahead(),
      affects: ['*'],
    },
  ];
}

/** A write that finds its turn needs far less, also on a slow machine. */
const LONGEST_TURN = 3000;

/** The one write that waits to see whether it gets its turn: while it does, nobody begins another. */
const trying = new WeakMap<AppContext, { since: number; done: Promise<boolean> }>();

/** Whether the database can be written to; what waits longer than any write takes says that it is held by somebody. */
async function isWritable(ctx: AppContext): Promise<boolean> {
  const now = ctx.clock.elapsed();
  const attempt = trying.get(ctx) ?? {
    since: now,
    done: ctx.store
      .write(async () => true, { durable: false })
      .catch(() => false)
      .finally(() => trying.delete(ctx)),
  };
  trying.set(ctx, attempt);
  const left = LONGEST_TURN - (now - attempt.since);
  return left > 0 ? Promise.race([attempt.done, ctx.clock.pause(left).then(() => false)]) : false;
}

const LONGEST_MUTE = 90 * DAY;

/** Says nothing of a finding for some days; why is kept, and it ends by itself. */
export async function muteFinding(
  ctx: AppContext,
  actor: Actor,
  input: { key: string; reason: string; days: number },
): Promise<void> {
  requireRole(actor, 'administrator');
  if (!input.reason.trim())
    throw invalidText('reason', 'The reason is missing.', 'Write why this may wait, for whoever looks next.');
  if (!(input.days >= 1) || input.days * DAY > LONGEST_MUTE)
    throw invalidText('days', 'This is no number of days.', 'From 1 to 90.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.execute(
      `INSERT INTO readiness_mutes (key, reason, until, at, by) VALUES (:key, :reason, :until, :at, :by)
         ON CONFLICT (key) DO UPDATE SET reason = excluded.reason, until = excluded.until, at = excluded.at, by = excluded.by`,
      { key: input.key, reason: input.reason.trim().slice(0, 500), until: at + input.days * DAY, at, by: actor.name },
    );
    await recordAudit(unit, actor, at, {
      action: 'finding.muted',
      subject: input.key,
      summary: `Muted a finding for ${input.days} days: ${input.reason.trim().slice(0, 120)}`,
    });
    await noteChanges(unit, at, [['readiness', 'mutes']]);
  });
}

export async function unmuteFinding(ctx: AppContext, actor: Actor, key: string): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    await unit.execute('DELETE FROM readiness_mutes WHERE key = :key', { key });
    await noteChanges(unit, ctx.now(), [['readiness', 'mutes']]);
  });
}
