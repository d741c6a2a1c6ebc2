/** For how many days each kind of internal data is kept. */
import { type Actor, type AppContext, invalidText, recordAudit, requireRole } from '../context';
import { RETENTION } from './kinds';

const SETTING = 'retention';
/** Ten years. */
const MOST = 3650;

/** Days by kind, as somebody set them. */
type Set = Record<string, number>;

export interface RetentionView {
  name: string;
  label: string;
  help: string;
  days: number;
  usual: number;
  least: number;
}

/** Days of each kind, set or usual. */
export async function daysKept(ctx: AppContext): Promise<Map<string, number>> {
  const set = ((await ctx.store.settings.one({ name: SETTING }))?.value ?? {}) as Set;
  return new Map(RETENTION.map(({ name, usual }) => [name, set[name] ?? usual]));
}

export async function viewRetention(ctx: AppContext, actor: Actor): Promise<RetentionView[]> {
  requireRole(actor, 'administrator');
  const kept = await daysKept(ctx);
  return RETENTION.map(({ name, label, help, usual, least }) => ({
    name,
    label,
    help,
    usual,
    least,
    days: kept.get(name) ?? usual,
  }));
}

/** Sets the days of every kind at once. What is missing keeps what it has. */
export async function changeRetention(ctx: AppContext, actor: Actor, days: Readonly<Record<string, number>>) {
  requireRole(actor, 'administrator');
  const before = await daysKept(ctx);
  const after: Set = {};
  for (const { name, label, least } of RETENTION) {
    const wanted = days[name] ?? before.get(name) ?? least;
    if (!Number.isInteger(wanted) || wanted < least || wanted > MOST)
      throw invalidText(
        name,
        `${label}: this is no number of days that works.`,
        `From ${least} to ${MOST} whole days.`,
      );
    after[name] = wanted;
  }
  const changed = RETENTION.filter(({ name }) => before.get(name) !== after[name]);
  if (changed.length === 0) return;
  const summary = changed.map(({ name, label }) => `${label}: ${before.get(name)} → ${after[name]} days`).join('; ');
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: SETTING, value: after });
    await recordAudit(unit, actor, ctx.now(), { action: 'retention.changed', subject: SETTING, summary });
  });
}
