/** What people do with a broadcast that is planned: start, approve, hold, resume, cancel. Whoever is second at it is told so. */
import { type BroadcastState, type Hold, stateAfter, type Verb } from '../../core/broadcast/course';
import { EVIDENCE_LASTS } from '../../core/proof/proofs';
import { timeId } from '../../store/ids';
import type { BroadcastRow, HeldBroadcast } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { emitBroadcastEvent } from '../apps/webhooks';
import {
  type Actor,
  type AppContext,
  invalidText,
  isOperationError,
  noteChanges,
  OperationError,
  recordAudit,
  requireAccess,
} from '../context';
import { appendMessageEvents } from '../messages';
import { groupProofs } from '../proofs';
import { outcomesOf } from './outcomes';
import { needsApproval, readBroadcastRules, requireMay } from './settings';
import { reachedBroadcast, requireVersion } from './writing/reached';

/** A plan is made on facts that change: prices, consents, who opted out. */
export const PLAN_LASTS = 60 * 60_000;
/** Characters of a reason somebody types. */
const SHORTEST_REASON = 5;

/** The state it goes to; throws where the verb is for another state. */
function next(row: BroadcastRow, verb: Verb): BroadcastState {
  const state = stateAfter(row.state, verb);
  if (!state) throw new OperationError('conflict', `It is ${WORDS[row.state]} by now. Look at it again.`);
  return state;
}

const WORDS: Record<BroadcastState, string> = {
  draft: 'a draft',
  planning: 'being planned',
  approval: 'waiting for approval',
  scheduled: 'scheduled',
  running: 'running',
  held: 'held',
  finished: 'finished',
  cancelled: 'cancelled',
};

/**
 * Starts what was planned. A channel whose outbound hop is broken refuses it, one that is not proven wants a reason. Above
 * the size or the cost an owner set, somebody else has to approve.
 */
export async function startBroadcast(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { version, reason }: { version: number; reason?: string },
): Promise<{ state: BroadcastState }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'start');
  const at = ctx.now();
  const state = await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    if (row.state !== 'draft')
      throw new OperationError(
        'conflict',
        row.started_by_name && row.state !== 'planning'
          ? `${row.started_by_name} has started it already: it is ${WORDS[row.state]}.`
          : `It is ${WORDS[row.state]} by now. Look at it again.`,
      );
    requireVersion(row.version, version);
    return startIn(unit, row, actor, at, reason);
  });
  ctx.engineWakeUp.ring('broadcasts');
  return { state };
}

/** So many of one app start by themselves within an hour; whatever posts more often than that has run wild. */
const BY_ITSELF_AN_HOUR = 5;

/**
 * Starts what is to start as soon as it is planned, once and in the unit that keeps the plan. What stands against it stays
 * with the draft, for somebody to read: nobody is there who could give a reason, and from then on a person starts it.
 */
export async function startByItself(unit: Unit, id: string, at: number): Promise<void> {
  const row = await unit.broadcasts.one({ id, state: 'draft', starts_itself: 1 });
  if (!row) return;
  const by: Actor = { kind: 'broadcast', id: row.created_by, name: row.created_by_name };
  try {
    const lately = await unit.select<{ n: number }>(
      'SELECT count(*) AS n FROM broadcasts WHERE created_by = :by AND starts_itself = 2 AND id > :since',
      { by: row.created_by, since: timeId('bct', at - 3_600_000) },
    );
    if ((lately[0]?.n ?? 0) >= BY_ITSELF_AN_HOUR)
      throw new OperationError('conflict', `${BY_ITSELF_AN_HOUR} of ${row.created_by_name} did within the last hour.`);
    await startIn(unit, row, by, at);
    await unit.broadcasts.change({ id }, { starts_itself: 2 });
  } catch (error) {
    if (!isOperationError(error)) throw error;
    const plan_problem = `It did not start by itself: ${error.message}`;
    await unit.broadcasts.change({ id }, { plan_problem, starts_itself: 0 });
  }
}

async function startIn(
  unit: Unit,
  row: BroadcastRow,
  actor: Actor,
  at: number,
  reason?: string,
): Promise<BroadcastState> {
  const { id, plan } = row;
  if (!plan || plan.version !== row.version)
    throw invalidText('plan', 'It is not planned as it stands.', 'Plan it and read the plan before it starts.');
  if (at - plan.at > PLAN_LASTS)
    throw invalidText(
      'plan',
      'The plan is more than an hour old: who opted out, prices and windows may have changed.',
      'Plan it again.',
    );
  if (plan.going === 0)
    throw invalidText('plan', 'Nobody would get it.', 'Read the reasons below, and change what they name.');
  const short = plan.credit.find(({ enough }) => !enough);
  if (short)
    throw invalidText(
      'plan',
      `The balance of ${short.account} does not suffice for it.`,
      'Add credit and check the account, or send it to fewer.',
    );
  const unproven = await pathProblem(unit, row, at);
  if (unproven?.state === 'broken')
    throw invalidText('channels', unproven.words, 'Fix the channel and prove it, or choose another.');
  if (unproven && (reason?.trim().length ?? 0) < SHORTEST_REASON)
    throw invalidText('reason', unproven.words, 'Prove it first, or say why it is started all the same.');
  const approval = needsApproval(await readBroadcastRules(unit), plan);
  const state: BroadcastState = approval ? 'approval' : 'scheduled';
  await unit.broadcasts.change(
    { id },
    {
      state,
      version: row.version + 1,
      started_by: actor.id,
      started_by_name: actor.name,
      reason: unproven ? (reason?.trim() ?? null) : null,
      phase: row.definition.rules.first > 0 && plan.going > row.definition.rules.first ? 'first' : 'all',
      changed_at: at,
    },
  );
  await recordAudit(unit, actor, at, {
    action: approval ? 'broadcast.asked' : 'broadcast.started',
    subject: id,
    summary: `${approval ? 'Asked for approval of' : 'Started'} the broadcast ${row.name} to ${plan.going} people${unproven ? `, although ${unproven.words}: ${reason?.trim()}` : ''}`,
    details: { going: plan.going, cost: plan.cost.micros },
  });
  await noteChanges(unit, at, [['broadcast', id]]);
  return state;
}

/** What of its channels is not proven outbound: the worst of them in words. */
export async function pathProblem(
  unit: Pick<Unit, 'proofs' | 'channels'>,
  { definition }: Pick<BroadcastRow, 'definition'>,
  now: number,
): Promise<{ state: 'broken' | 'unproven'; words: string } | undefined> {
  const channels = await unit.channels.all({ id: [...definition.channels, ''] });
  const grouped = groupProofs(await unit.proofs.all({ subject_id: [...definition.channels, ''] }), now);
  const states = channels.map(({ id, name }) => ({
    name,
    state: grouped.get(id)?.find(({ hop }) => hop === 'outbound')?.state ?? 'unproven',
  }));
  const broken = states.find(({ state }) => state === 'broken');
  if (broken) return { state: 'broken', words: `The outbound hop of ${broken.name} is broken.` };
  const unproven = states.find(({ state }) => state === 'unproven');
  if (!unproven) return undefined;
  const days = EVIDENCE_LASTS / 86_400_000;
  return {
    state: 'unproven',
    words: `Nothing sent over ${unproven.name} is known to have arrived in the last ${days} days.`,
  };
}

/** Somebody other than who started it looks at it and lets it go. */
export async function approveBroadcast(ctx: AppContext, actor: Actor, id: string, version: number): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'approve');
  await change(ctx, actor, id, version, 'approve', (row) => {
    if (row.started_by === actor.id)
      throw new OperationError(
        'forbidden',
        'Whoever started it does not approve it: a second person has to look at it.',
      );
    return {
      values: { approved_by: actor.id, approved_by_name: actor.name },
      summary: `Approved the broadcast ${row.name} to ${row.plan?.going ?? 0} people`,
    };
  });
  ctx.engineWakeUp.ring('broadcasts');
}

/** Back to a draft, before anything of it has left. */
export async function sendBack(ctx: AppContext, actor: Actor, id: string, version: number): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'start');
  await change(ctx, actor, id, version, 'send-back', (row) => ({
    values: { plan: null, started_by: null, started_by_name: null, approved_by: null, approved_by_name: null },
    summary: `Made the broadcast ${row.name} a draft again`,
  }));
}

/** From the moment this is committed nothing of it leaves that is not on the wire. */
export async function holdBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    next(row, 'hold');
    await holdIn(unit, row, at, {
      code: 'by-hand',
      problem: `${actor.name} held it.`,
      remedy: 'Resume it, or cancel it.',
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: 'broadcast.held',
      subject: id,
      summary: `Held the broadcast ${row.name}`,
    });
  });
  ctx.engineWakeUp.ring('broadcasts');
  ctx.engineWakeUp.ring('webhooks');
}

/** In the unit of the caller, for whatever reason. */
export async function holdIn(
  unit: Unit,
  row: BroadcastRow,
  at: number,
  why: Hold | Omit<HeldBroadcast, 'at' | 'underWay'>,
): Promise<void> {
  const [sending] = await unit.select<{ n: number }>(
    `SELECT coalesce(sum(n), 0) AS n FROM broadcast_counts WHERE broadcast_id = :id AND state = 'sending'`,
    { id: row.id },
  );
  const held = { ...why, at, underWay: sending?.n ?? 0 } as HeldBroadcast;
  await unit.broadcasts.change({ id: row.id }, { state: 'held', version: row.version + 1, held, changed_at: at });
  await moveWaiting(unit, row.id, 'due', 'held', at);
  await emitBroadcastEvent(unit, 'windgap.broadcast.held', { ...row, state: 'held', held }, at);
  await noteChanges(unit, at, [['broadcast', row.id]]);
}

/** What of it waits in the outbox. */
const WAITING = `SELECT message_id FROM broadcast_recipients WHERE broadcast_id = :id AND state = 'queued'`;

async function moveWaiting(unit: Unit, id: string, from: string, to: string, at: number): Promise<void> {
  await unit.execute(
    `UPDATE outbox SET state = :to, due_at = CASE WHEN :to = 'due' THEN max(due_at, :at) ELSE due_at END
      WHERE state = :from AND message_id IN (${WAITING})`,
    { id, from, to, at },
  );
}

/** Goes on. What is known by now was looked at by whoever resumes it: it is judged by what comes after. */
export async function resumeBroadcast(ctx: AppContext, actor: Actor, id: string, version: number): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'start');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireVersion(row.version, version);
    const state = next(row, 'resume');
    const path = await pathProblem(unit, row, at);
    if (path?.state === 'broken')
      throw invalidText('channels', path.words, 'Fix the channel and prove it before it goes on.');
    const { sent, delivered, failed, optedOut, countries } = await outcomesOf(unit, row, at, true);
    await unit.broadcasts.change(
      { id },
      {
        state,
        version: row.version + 1,
        held: null,
        phase: 'all',
        judged_from: {
          sent,
          delivered,
          failed,
          optedOut,
          countries: Object.fromEntries(
            countries.map(({ country, ...counts }) => [country, { known: counts.known, failed: counts.failed }]),
          ),
        },
        started_at: row.started_at ?? at,
        changed_at: at,
      },
    );
    await moveWaiting(unit, id, 'held', 'due', at);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.resumed',
      subject: id,
      summary: `Resumed the broadcast ${row.name}${row.held ? `, which was held: ${row.held.problem}` : ''}`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  ctx.engineWakeUp.ring('broadcasts');
  ctx.engineWakeUp.ring('outbox');
}

/** For good: what waits is withdrawn, and nothing more of it is queued. */
export async function cancelBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    if (row.state !== 'held' && row.state !== 'scheduled') await requireMay(unit, actor, 'start');
    const state = next(row, 'cancel');
    await unit.broadcasts.change({ id }, { state, version: row.version + 1, ended_at: at, changed_at: at });
    const waiting = await unit.select<{ message_id: string; attempts: number }>(
      `DELETE FROM outbox WHERE state IN ('due', 'held') AND message_id IN (${WAITING}) RETURNING message_id, attempts`,
      { id },
    );
    await appendMessageEvents(
      unit,
      waiting.map(({ message_id, attempts }) => ({
        message_id,
        kind: 'refused' as const,
        at,
        attempt: attempts,
        cause: 'broadcast-cancelled' as const,
      })),
      at,
    );
    await emitBroadcastEvent(unit, 'windgap.broadcast.finished', { ...row, state, held: null }, at);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.cancelled',
      subject: id,
      summary: `Cancelled the broadcast ${row.name}`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  ctx.engineWakeUp.ring('broadcasts');
  ctx.engineWakeUp.ring('webhooks');
}

async function change(
  ctx: AppContext,
  actor: Actor,
  id: string,
  version: number,
  verb: Verb,
  how: (row: BroadcastRow) => { values: Partial<BroadcastRow>; summary: string },
): Promise<void> {
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireVersion(row.version, version);
    const state = next(row, verb);
    const { values, summary } = how(row);
    await unit.broadcasts.change({ id }, { ...values, state, version: row.version + 1, changed_at: at });
    await recordAudit(unit, actor, at, { action: `broadcast.${verb}`, subject: id, summary });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
}
