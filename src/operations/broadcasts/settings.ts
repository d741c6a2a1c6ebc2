/** What an owner sets for all broadcasts: who may do what, when a second person has to look, how often and when people are written to. */
import { type QuietTable, readQuietTable, USUAL_QUIET } from '../../core/broadcast/quietHours';
import type { BroadcastPlan } from '../../core/broadcast/summary';
import { microsOf } from '../../core/limits/prices';
import type { Tables } from '../../store/schema/tables';
import {
  type Actor,
  type AppContext,
  hasRole,
  invalidText,
  noteChanges,
  OperationError,
  type Role,
  recordAudit,
  requireRole,
} from '../context';

const SETTING = 'broadcast-rules';

/** Roles from which on somebody may; apps go by the scopes of their keys. */
export interface BroadcastRoles {
  prepare: Extract<Role, 'agent' | 'administrator'>;
  start: Extract<Role, 'agent' | 'administrator'>;
  approve: Extract<Role, 'administrator' | 'owner'>;
}

export interface BroadcastRules {
  /** A second person approves above so many people or such a cost in any currency, micro-units; null: never for that. */
  approval: { people: number | null; micros: number | null };
  roles: BroadcastRoles;
  /** Marketing one person gets at most, over all broadcasts. */
  cap: { most: number; days: number };
  quiet: QuietTable;
}

const USUAL: BroadcastRules = {
  approval: { people: null, micros: null },
  roles: { prepare: 'agent', start: 'administrator', approve: 'administrator' },
  cap: { most: 2, days: 7 },
  quiet: USUAL_QUIET,
};

export async function readBroadcastRules(from: Pick<Tables, 'settings'>): Promise<BroadcastRules> {
  const kept = (await from.settings.one({ name: SETTING }))?.value as Partial<BroadcastRules> | undefined;
  return { ...USUAL, ...kept };
}

/** Throws where a person's role does not allow it. */
export async function requireMay(
  from: Pick<Tables, 'settings'>,
  actor: Actor,
  what: keyof BroadcastRoles,
): Promise<void> {
  if (!(await mayDo(from, actor, what))) {
    const { roles } = await readBroadcastRules(from);
    throw new OperationError('forbidden', `${WHAT[what]} a broadcast is for ${roles[what]}s here.`);
  }
}

const WHAT: Record<keyof BroadcastRoles, string> = { prepare: 'Writing', start: 'Starting', approve: 'Approving' };

export async function mayDo(
  from: Pick<Tables, 'settings'>,
  actor: Actor,
  what: keyof BroadcastRoles,
): Promise<boolean> {
  return actor.kind === 'app' || hasRole(actor, (await readBroadcastRules(from)).roles[what]);
}

export function needsApproval(
  { approval: { people, micros } }: BroadcastRules,
  { going, cost }: Pick<BroadcastPlan, 'going' | 'cost'>,
): boolean {
  if (people !== null && going > people) return true;
  return micros !== null && Object.values(cost.micros).some((amount) => amount > micros);
}

/** Fields as an owner writes them; an empty one sets no bound. */
export interface WrittenRules {
  people: string;
  cost: string;
  prepare: string;
  start: string;
  approve: string;
  most: string;
  days: string;
  quiet: string;
}

export async function saveBroadcastRules(ctx: AppContext, actor: Actor, written: WrittenRules): Promise<void> {
  requireRole(actor, 'owner');
  const quiet = readQuietTable(written.quiet);
  if ('problem' in quiet) throw invalidText('quiet', quiet.problem, 'Such as “* 21:00-08:00”, then “FR 20:00-09:00”.');
  const rules: BroadcastRules = {
    approval: {
      people: written.people.trim() === '' ? null : numberIn('people', written.people, 1_000_000),
      micros: written.cost.trim() === '' ? null : amountOf(written.cost.trim()),
    },
    roles: {
      prepare: written.prepare === 'administrator' ? 'administrator' : 'agent',
      start: written.start === 'agent' ? 'agent' : 'administrator',
      approve: written.approve === 'owner' ? 'owner' : 'administrator',
    },
    cap: { most: numberIn('most', written.most, 100), days: numberIn('days', written.days, 365) },
    quiet: quiet.table,
  };
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: SETTING, value: rules });
    await recordAudit(unit, actor, at, {
      action: 'broadcast.rule',
      subject: SETTING,
      summary: `Changed the rules for all broadcasts: ${approvalInWords(rules)}`,
      details: { ...rules },
    });
    await noteChanges(unit, at, [['broadcast', SETTING]]);
  });
}

export function approvalInWords({ approval: { people, micros } }: Pick<BroadcastRules, 'approval'>): string {
  const words = [
    people === null ? undefined : `above ${people.toLocaleString('en')} people`,
    micros === null ? undefined : `above a cost of ${micros / 1e6}`,
  ].filter(Boolean);
  return words.length === 0 ? 'no second person has to approve' : `a second person approves ${words.join(' or ')}`;
}

function numberIn(name: 'people' | 'most' | 'days', written: string, most: number): number {
  const n = Number(written.trim());
  if (!/^\d{1,7}$/.test(written.trim()) || n < 1 || n > most)
    throw invalidText(name, 'This is no number it can be.', `From 1 to ${most.toLocaleString('en')}.`);
  return n;
}

function amountOf(written: string): number {
  const micros = microsOf(written);
  if (micros === undefined) throw invalidText('cost', 'This is no amount.', 'Such as 25.00, in whatever currency.');
  return micros;
}
