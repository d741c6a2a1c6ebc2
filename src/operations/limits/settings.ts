/** The limits on sending as they are set, and lifted for a while for one place. */
import { type Amounts, LIMITS, limitNamed, USUAL_AMOUNTS } from '../../core/limits/limits';
import type { LimitLiftRow, SendingStopRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, invalidText, OperationError, recordAudit, requireRole } from '../context';

const SETTING = 'sending-limits';
const MOST = 1_000_000_000;
const MOST_HOURS = 31 * 24;

export interface LimitsInForce {
  amounts: Amounts;
  lifted(limit: SendingStopRow['limit_name'], subject: string): boolean;
}

type Reader = Pick<Unit, 'settings' | 'limitLifts'>;

export async function limitsInForce(from: Reader, now: number): Promise<LimitsInForce> {
  const [amounts, lifts] = await Promise.all([readAmounts(from), from.limitLifts.all()]);
  const open = new Set(lifts.filter(({ until }) => until > now).map((lift) => `${lift.limit_name} ${lift.subject}`));
  return { amounts, lifted: (limit, subject) => open.has(`${limit} ${subject}`) };
}

export async function readAmounts(from: Pick<Reader, 'settings'>): Promise<Amounts> {
  return { ...USUAL_AMOUNTS, ...((await from.settings.one({ name: SETTING }))?.value as Partial<Amounts> | undefined) };
}

/** Sets amounts by limit; null: none. What is missing keeps what it has. Money in micro-units. */
export async function changeLimits(ctx: AppContext, actor: Actor, given: Partial<Amounts>): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    const before = await readAmounts(unit);
    const after = { ...before };
    for (const { name, words } of LIMITS) {
      const wanted = given[name];
      if (wanted === undefined) continue;
      if (wanted !== null && (!Number.isInteger(wanted) || wanted < 0 || wanted > MOST))
        throw invalidText(name, `${words}: this is no amount.`, 'A whole number from 0, or nothing for no limit.');
      after[name] = wanted;
    }
    const changed = LIMITS.filter(({ name }) => before[name] !== after[name]);
    if (changed.length === 0) return;
    await unit.settings.put({ name: SETTING, value: after });
    const say = (amount: number | null) => (amount === null ? 'no limit' : String(amount));
    await recordAudit(unit, actor, ctx.now(), {
      action: 'limits.changed',
      subject: SETTING,
      summary: changed.map(({ name, words }) => `${words}: ${say(before[name])} → ${say(after[name])}`).join('; '),
    });
  });
}

/** Lifts one limit for one place (a number, a range, a country, an app …) for some hours. */
export async function liftLimit(
  ctx: AppContext,
  actor: Actor,
  { limit, subject, hours }: { limit: SendingStopRow['limit_name']; subject: string; hours: number },
): Promise<void> {
  requireRole(actor, 'administrator');
  if (limit !== 'codes-unread' && !LIMITS.some(({ name }) => name === limit))
    throw new OperationError('not-found', 'There is no such limit.');
  if (!subject || subject.length > 100) throw invalidText('subject', 'The place is missing.', 'Choose a line.');
  if (!Number.isFinite(hours) || hours <= 0 || hours > MOST_HOURS)
    throw invalidText('hours', 'This is no number of hours.', 'From 1 to 744; the amount itself can be raised, too.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.limitLifts.put({
      limit_name: limit,
      subject,
      until: at + Math.round(hours * 3_600_000),
      at,
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: 'limits.lifted',
      subject: limit,
      summary: `Lifted “${wordsOf(limit)}” for ${subject} for ${hours} hours`,
    });
  });
}

export async function endLift(
  ctx: AppContext,
  actor: Actor,
  lift: Pick<LimitLiftRow, 'limit_name' | 'subject'>,
): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    const { limit_name, subject } = lift;
    if (!(await unit.limitLifts.one({ limit_name, subject }))) return;
    await unit.limitLifts.remove({ limit_name, subject });
    await recordAudit(unit, actor, ctx.now(), {
      action: 'limits.lift-ended',
      subject: limit_name,
      summary: `“${wordsOf(limit_name)}” is in force for ${subject} again`,
    });
  });
}

export function wordsOf(limit: SendingStopRow['limit_name']): string {
  return limit === 'codes-unread' ? 'codes that nobody confirms' : limitNamed(limit).words;
}
