/** What an owner sets for all broadcasts: from which size or cost on a second person has to approve. */
import type { BroadcastPlan } from '../../core/broadcast/summary';
import { microsOf } from '../../core/limits/prices';
import type { Tables } from '../../store/schema/tables';
import { type Actor, type AppContext, invalidText, noteChanges, recordAudit, requireRole } from '../context';

const SETTING = 'broadcast-approval';

export interface ApprovalRule {
  /** More people than this; null: any number goes without. */
  people: number | null;
  /** More than this in any currency, micro-units. */
  micros: number | null;
}

const NONE: ApprovalRule = { people: null, micros: null };

export async function readApprovalRule(from: Pick<Tables, 'settings'>): Promise<ApprovalRule> {
  return ((await from.settings.one({ name: SETTING }))?.value as ApprovalRule | undefined) ?? NONE;
}

export function needsApproval(
  { people, micros }: ApprovalRule,
  { going, cost }: Pick<BroadcastPlan, 'going' | 'cost'>,
): boolean {
  if (people !== null && going > people) return true;
  return micros !== null && Object.values(cost.micros).some((amount) => amount > micros);
}

/** Fields as an owner writes them; an empty one sets no bound. */
export async function saveApprovalRule(
  ctx: AppContext,
  actor: Actor,
  { people, cost }: { people: string; cost: string },
): Promise<void> {
  requireRole(actor, 'owner');
  const rule: ApprovalRule = {
    people: people.trim() === '' ? null : wholeNumber(people.trim()),
    micros: cost.trim() === '' ? null : amountOf(cost.trim()),
  };
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: SETTING, value: rule });
    const words = [
      rule.people === null ? undefined : `above ${rule.people} people`,
      rule.micros === null ? undefined : `above a cost of ${rule.micros / 1e6}`,
    ].filter(Boolean);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.rule',
      subject: SETTING,
      summary: `Broadcasts need a second person: ${words.join(' or ') || 'never'}`,
    });
    await noteChanges(unit, at, [['broadcast', SETTING]]);
  });
}

function wholeNumber(written: string): number {
  if (!/^\d{1,7}$/.test(written)) throw invalidText('people', 'This is no number of people.', 'Such as 500.');
  return Number(written);
}

function amountOf(written: string): number {
  const micros = microsOf(written);
  if (micros === undefined) throw invalidText('cost', 'This is no amount.', 'Such as 25.00, in whatever currency.');
  return micros;
}
