/**
 * Keeps the findings fresh in the engine, so that no page waits for an examination. What the
 * change table names is examined again, and all of it from time to time: expiries, queues and
 * credit change without anybody changing anything.
 */
import { cause } from '../../core/delivery/causes';
import { type Examined, keyOf } from '../../core/readiness/readiness';
import type { Unit } from '../../store/store';
import { type AppContext, type Change, latestChangeId, noteChanges } from '../context';
import { createQueueWatch } from '../setAside';
import { allParts, examineParts, type Part, partsTouched, WATCHED } from './readinessChecks';
import { countTraffic } from './readinessTraffic';

const ALL_AGAIN = 5 * 60_000;
/** Changes are gathered for so long, so that a burst costs one examination. */
const GATHER = 1000;
export const SEEN_SETTING = 'engine-seen';

/** The time without what a bench has moved it on by: nobody falls silent because the clock was moved. */
export function notMoved(ctx: AppContext): number {
  return ctx.now() - ctx.clock.ahead();
}
const SEEN_EVERY = 15_000;
/** The engine makes itself heard far more often. */
export const SILENT_AFTER = 45_000;

/** What can change without anybody changing anything, and should be told within seconds. */
const ENGINE_PARTS: readonly Part[] = ['engine', 'disk'];

export interface ReadinessMonitor {
  round(): Promise<number | undefined>;
}

export function createReadinessMonitor(ctx: AppContext): ReadinessMonitor {
  let seen: number | undefined;
  let allAt = 0;
  let seenAt = 0;
  const watch = createQueueWatch(ctx);

  return {
    async round() {
      const now = ctx.now();
      if (now - seenAt > SEEN_EVERY) {
        await noteSeen(ctx, seenAt === 0);
        seenAt = now;
        await watch.look();
        await examineAgain(ctx, ENGINE_PARTS);
      }
      const newest = await latestChangeId(ctx);
      if (seen === undefined || now - allAt > ALL_AGAIN) {
        seen = newest;
        allAt = now;
        await countTraffic(ctx, ALL_AGAIN / 2);
        await examineAgain(ctx, await allParts(ctx), { whole: true });
        return GATHER;
      }
      if (newest === seen) return undefined;
      const changes = await ctx.store.select<Omit<Change, 'id'>>(
        `SELECT DISTINCT topic, subject_id AS subject FROM changes
          WHERE id > :seen AND topic IN (SELECT value FROM json_each(:watched))`,
        { seen, watched: JSON.stringify(WATCHED) },
      );
      const parts = await partsTouched(ctx, changes);
      seen = newest;
      if (parts.size > 0) await examineAgain(ctx, parts);
      return GATHER;
    },
  };
}

/** Makes the engine heard. An engine that begins after a silence enters that as an alert which has ended. */
async function noteSeen(ctx: AppContext, first: boolean): Promise<void> {
  await ctx.store.write(async (unit) => {
    const now = notMoved(ctx);
    const before = (await unit.settings.one({ name: SEEN_SETTING }))?.value as number | undefined;
    await unit.settings.put({ name: SEEN_SETTING, value: now });
    if (!first || before === undefined || now - before < SILENT_AFTER) return;
    const { title, explain, remedy } = cause('engine-silent');
    await unit.alerts.insert([
      {
        key: 'engine-silent engine',
        code: 'engine-silent',
        subject_id: 'engine',
        subject_name: 'The engine',
        severity: 'error',
        problem: `${title}. ${explain({})}`,
        opened_at: before + ctx.clock.ahead(),
        closed_at: now + ctx.clock.ahead(),
        href: '/prove/readiness',
        remedy,
        taken_at: null,
        taken_by: null,
      },
    ]);
  });
}

/** Examines parts, keeps what they say, and enters what began and what ended. */
export async function examineAgain(ctx: AppContext, parts: Iterable<Part>, { whole = false } = {}): Promise<void> {
  const examined = await examineParts(ctx, parts);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = new Map((await unit.readinessParts.all()).map((row) => [row.part, row.findings]));
    const kept = new Map<Part, Examined[]>(whole ? [] : before);
    for (const [part, findings] of examined) kept.set(part, findings);
    const changed = [...examined].filter(
      ([part, findings]) => JSON.stringify(before.get(part) ?? []) !== JSON.stringify(findings),
    );
    for (const [part, findings] of examined) await unit.readinessParts.put({ part, findings, at });
    if (whole) {
      const gone = [...before.keys()].filter((part) => !examined.has(part));
      await unit.readinessParts.removeBy('part', gone);
    }
    if (changed.length === 0 && !(whole && before.size !== examined.size)) return;
    await keepAlerts(unit, [...kept.values()].flat(), at);
    await noteChanges(unit, at, [['readiness', 'findings']]);
  });
}

/** Findings above notice are alerts: written when they begin, and again when they end. */
async function keepAlerts(unit: Unit, findings: readonly Examined[], at: number): Promise<void> {
  const now = new Map(
    findings.filter(({ severity }) => severity !== 'notice').map((finding) => [keyOf(finding), finding]),
  );
  const open = await unit.alerts.all({ closed_at: null });
  const ended = open.filter(({ key }) => !now.has(key)).flatMap(({ id }) => id ?? []);
  if (ended.length > 0) await unit.alerts.change({ id: ended }, { closed_at: at });
  // What lasts may say more than it did: another reason, a larger number.
  for (const { id, key, problem } of open) {
    const finding = now.get(key);
    if (id === undefined || !finding || finding.problem === problem) continue;
    await unit.alerts.change({ id }, { problem: finding.problem, remedy: finding.remedy, severity: finding.severity });
  }
  const known = new Set(open.map(({ key }) => key));
  await unit.alerts.insert(
    [...now].flatMap(([key, { code, subject, severity, problem, remedy }]) =>
      known.has(key)
        ? []
        : [
            {
              key,
              code,
              subject_id: subject.id,
              subject_name: subject.name,
              severity,
              problem,
              opened_at: at,
              closed_at: null,
              href: subject.href,
              remedy,
              taken_at: null,
              taken_by: null,
            },
          ],
    ),
  );
}
