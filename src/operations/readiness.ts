/** The standing examination of the whole set-up: what the engine found last, weighed by what it endangers. */

import { cause } from '../core/delivery/causes';
import { type Examined, type Readiness, type SubjectChange, weigh } from '../core/readiness/readiness';
import type { ReadinessHistoryRow } from '../store/rows';
import { type Actor, requireRole } from './actor';
import { recordAudit } from './audit';
import { noteChanges } from './changes';
import { invalidText } from './errors';
import { allParts, examineParts } from './readinessChecks';
import { SEEN_SETTING } from './readinessKeeping';
import { countTraffic, houseTraffic } from './readinessTraffic';
import type { Windgap } from './windgap';

const DAY = 86_400_000;
const CHANGES_DAYS = 14;
/** The engine makes itself heard far more often. */
const SILENT_AFTER = 45_000;
const RECOUNT = 1000;

export interface ReadinessView extends Readiness {
  /** When the engine examined the part it examined longest ago; undefined before the first time. */
  examinedAt?: number;
  /** Findings that ended in the last fourteen days, newest first. */
  ended: ReadinessHistoryRow[];
}

/** What the engine found when something last changed. */
export async function getReadiness(w: Windgap, actor: Actor): Promise<ReadinessView> {
  requireRole(actor, 'viewer');
  const parts = await w.store.readinessParts.all();
  const ended = await w.store.select<ReadinessHistoryRow>(
    'SELECT * FROM readiness_history WHERE closed_at > :since ORDER BY closed_at DESC LIMIT 30',
    { since: w.now() - CHANGES_DAYS * DAY },
  );
  const oldest = Math.min(...parts.map(({ at }) => at));
  return {
    ...(await weighed(
      w,
      parts.flatMap(({ findings }) => findings),
    )),
    ...(parts.length > 0 ? { examinedAt: oldest } : {}),
    ended,
  };
}

/** Examines everything now, for who cannot wait for the engine. */
export async function examineNow(w: Windgap): Promise<Readiness> {
  await countTraffic(w, RECOUNT);
  const examined = await examineParts(w, await allParts(w));
  return weighed(w, [...examined.values()].flat());
}

async function weighed(w: Windgap, examined: readonly Examined[]): Promise<Readiness> {
  const now = w.now();
  const [changes, mutes, traffic, engine] = await Promise.all([
    w.store.select<SubjectChange>(
      `SELECT subject_id AS subject, at, actor_name AS by, summary FROM audit_entries WHERE at > :since ORDER BY id DESC LIMIT 1000`,
      { since: now - CHANGES_DAYS * DAY },
    ),
    w.store.select<{ key: string; reason: string; by: string; until: number }>('SELECT * FROM readiness_mutes'),
    houseTraffic(w),
    engineFindings(w),
  ]);
  return weigh([...engine, ...examined], {
    changes,
    mutes,
    traffic: traffic.perDay,
    now,
  });
}

/** An engine that has never run is somebody setting up; one that has fallen silent loses time. */
async function engineFindings(w: Windgap): Promise<Examined[]> {
  const seen = (await w.store.settings.one({ name: SEEN_SETTING }))?.value as number | undefined;
  if (seen === undefined || w.now() - seen < SILENT_AFTER) return [];
  const { explain, mend } = cause('engine-silent');
  return [
    {
      code: 'engine-silent',
      severity: 'error',
      problem: explain({}),
      mend,
      subject: { kind: 'engine', id: 'engine', name: 'The engine', href: '/' },
      since: seen,
      affects: ['*'],
    },
  ];
}

const LONGEST_MUTE = 90 * DAY;

/** Says nothing of a finding for some days; why is kept, and it ends by itself. */
export async function muteFinding(
  w: Windgap,
  actor: Actor,
  input: { key: string; reason: string; days: number },
): Promise<void> {
  requireRole(actor, 'administrator');
  if (!input.reason.trim())
    throw invalidText('reason', 'It is not said why.', 'Write why this may wait, for whoever looks next.');
  if (!(input.days >= 1) || input.days * DAY > LONGEST_MUTE)
    throw invalidText('days', 'This is no number of days.', 'From 1 to 90.');
  const at = w.now();
  await w.store.write(async (unit) => {
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

export async function unmuteFinding(w: Windgap, actor: Actor, key: string): Promise<void> {
  requireRole(actor, 'administrator');
  await w.store.write(async (unit) => {
    await unit.execute('DELETE FROM readiness_mutes WHERE key = :key', { key });
    await noteChanges(unit, w.now(), [['readiness', 'mutes']]);
  });
}
