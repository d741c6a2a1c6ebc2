/** How a change on trial ends: it stays because what it touches was proven, or it is reverted, here and at the provider. */
import type { ChangedOutside, ChangedRow } from '../../core/changeTrace';
import type { HopName } from '../../core/proof/hops';
import { provesSince, type TrialNeed } from '../../core/proof/trialNeeds';
import { HOP_WORDS } from '../../core/proof/wording';
import type { ChangeTrialRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { readAccountAgain } from '../accounts';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  inboundUrl,
  isOperationError,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../context';
import { connectorOf, openCredentials, syncProfiles } from '../profiles';
import { groupProofs, recordFacts } from '../proofs';
import { returnToRevision } from '../routes';
import { rowNow } from './beginTrial';

const AGAIN_AFTER = 5000;
/** So long a provider that cannot be reached is asked again to take the former address. */
const LONGEST_TRYING = 15 * 60_000;

/** Ends the trials that are proven or over. One that cannot be ended, or not even read, holds up no other. */
export async function workTrials(ctx: AppContext): Promise<undefined> {
  const running = (await ctx.store.changeTrials.readable()).filter(({ state }) => state === 'running');
  for (const trial of running)
    await workTrial(ctx, trial).catch(async (error: unknown) => {
      // Somebody ended it by hand in between.
      if (isOperationError(error) && error.kind === 'conflict') return;
      ctx.log.error({ err: error, trial: trial.id }, 'a trial could not be ended');
      const said = `It could not be reverted: ${(error as Error).message}.`;
      if (ctx.now() - trial.until_at >= LONGEST_TRYING)
        await ctx.store.write((unit) => end(ctx, unit, SYSTEM, trial, 'stuck', said));
      else noteTried(ctx, trial);
    });
}

async function workTrial(ctx: AppContext, trial: ChangeTrialRow): Promise<void> {
  const open = await openNeeds(ctx, trial);
  if (open.length === 0) await keep(ctx, SYSTEM, trial, 'Everything it touches was proven again.');
  else if (ctx.now() >= trial.until_at && isDue(ctx, trial)) await revertChange(ctx, SYSTEM, trial);
}

/** Each trial whose revert failed, and when that was. */
const tried = new WeakMap<AppContext, Map<string, number>>();

function noteTried(ctx: AppContext, { id }: ChangeTrialRow): void {
  const times = tried.get(ctx) ?? new Map<string, number>();
  tried.set(ctx, times.set(id, ctx.now()));
}

function isDue(ctx: AppContext, { id }: ChangeTrialRow): boolean {
  const last = tried.get(ctx)?.get(id);
  return last === undefined || ctx.now() - last >= AGAIN_AFTER;
}

/** What of it nothing has proven since. */
export async function openNeeds(ctx: AppContext, { needs, begun_at }: Pick<ChangeTrialRow, 'needs' | 'begun_at'>) {
  const open: TrialNeed[] = [];
  for (const need of needs) if (!(await isProven(ctx, need, begun_at))) open.push(need);
  return open;
}

async function isProven(ctx: AppContext, need: TrialNeed, since: number): Promise<boolean> {
  if (need.kind === 'hop') {
    const proofs = await ctx.store.proofs.all({ subject_id: need.anyOf, hop: need.hop });
    return [...groupProofs(proofs, ctx.now()).values()].flat().some((proof) => provesSince(proof, since));
  }
  const rows = await ctx.store.select(
    `SELECT 1 FROM message_routings WHERE revision >= :revision AND at >= :since AND cause IS NULL
        AND outcome IN ('routed', 'answer') LIMIT 1`,
    { revision: need.revision, since },
  );
  return rows.length > 0;
}

export function wordsOfNeed(need: TrialNeed): string {
  return need.kind === 'hop' ? HOP_WORDS[need.hop] : 'Something is routed by it';
}

export async function keep(ctx: AppContext, actor: Actor, trial: ChangeTrialRow, said: string): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write((unit) => end(ctx, unit, actor, trial, 'kept', said));
}

async function end(
  ctx: AppContext,
  unit: Unit,
  actor: Actor,
  { id, what }: ChangeTrialRow,
  state: 'kept' | 'reverted' | 'stuck',
  said: string,
): Promise<void> {
  const at = ctx.now();
  const seen = actor.kind === 'user' && state === 'reverted' ? { seen_at: at } : {};
  // What was is of no use any more, and former secrets are kept no longer than they have to be.
  const changed = await unit.changeTrials.change(
    { id, state: 'running' },
    { state, said, ended_at: at, sealed_rows: [], outside: [], ...seen },
  );
  if (changed === 0) throw new OperationError('conflict', 'This trial has ended already.');
  const words = { kept: 'Kept', reverted: 'Reverted', stuck: 'Not reverted' }[state];
  await recordAudit(unit, actor, at, {
    action: `change-trial.${state}`,
    subject: id,
    summary: `${words}: ${what}. ${said}`,
  });
  await noteChanges(unit, at, [['trial', id]]);
}

/** Reverts everything that nobody changed since, at the provider first. */
export async function revertChange(ctx: AppContext, actor: Actor, trial: ChangeTrialRow, why?: string): Promise<void> {
  const open = await openNeeds(ctx, trial);
  const reason = why ?? `Not proven in time: ${[...new Set(open.map(wordsOfNeed))].join(', ').toLowerCase()}.`;
  const left: string[] = [];
  for (const step of [...trial.outside].reverse()) {
    const problem = await revertOutside(ctx, step);
    if (!problem) continue;
    if (problem.again && ctx.now() - trial.until_at < LONGEST_TRYING) {
      noteTried(ctx, trial);
      await ctx.store.write((unit) =>
        unit.changeTrials.change({ id: trial.id }, { said: `${reason} ${problem.said}` }),
      );
      return;
    }
    left.push(problem.said);
  }
  const revision = trial.sealed_rows.find(({ table }) => table === 'routeRevisions');
  if (revision) left.push(...(await revertRoutes(ctx, actor, revision)));
  await ctx.store.write(async (unit) => {
    for (const change of [...trial.sealed_rows].reverse())
      if (change.table !== 'routeRevisions') left.push(...(await revertRow(ctx, unit, change)));
    const at = ctx.now();
    await recordFacts(unit, await touchedBy(unit, trial, at), at);
    await noteChanges(unit, at, topicsOf(trial));
    await end(ctx, unit, actor, trial, left.length > 0 ? 'stuck' : 'reverted', [reason, ...left].join(' '));
  });
  await syncProfiles(ctx, true);
  ctx.engineWakeUp.ring('accounts');
  ctx.engineWakeUp.ring('outbox');
}

/** Hops that the change had made unproven: what was proven with the set-up as it was is old, and is to be proven once more. */
async function touchedBy(unit: Unit, { needs, begun_at }: ChangeTrialRow, at: number) {
  const subjects = needs.flatMap((need) => (need.kind === 'hop' ? need.anyOf : []));
  const rows = await unit.proofs.all({ subject_id: [...new Set(subjects)] });
  const bySubject = new Map<string, HopName[]>();
  for (const { subject_id, hop, changed_at } of rows)
    if (changed_at >= begun_at) bySubject.set(subject_id, [...(bySubject.get(subject_id) ?? []), hop]);
  return [...bySubject].map(([subject, touches]) => ({
    subject,
    fact: { kind: 'changed', touches, at, note: 'a change on trial was reverted' } as const,
  }));
}

function topicsOf({ sealed_rows }: ChangeTrialRow) {
  const topics = {
    accounts: 'account',
    channels: 'channel',
    subscriptions: 'app',
    apiKeys: 'app',
    hooks: 'app',
    apps: 'app',
  } as const;
  return sealed_rows.flatMap(({ table, key }) => {
    const topic = Object.hasOwn(topics, table) ? topics[table as keyof typeof topics] : undefined;
    return topic ? [[topic, String(key.id)] as const] : [];
  });
}

/** Undefined once it is done; `again` where it may work later. */
async function revertOutside(
  ctx: AppContext,
  { accountId, numberId, channelId, before, after }: ChangedOutside,
): Promise<{ said: string; again: boolean } | undefined> {
  const [account, channel] = await Promise.all([
    ctx.store.accounts.one({ id: accountId }),
    ctx.store.channels.one({ id: channelId }),
  ]);
  const number = await ctx.store.numbers.one({ id: numberId });
  if (!account || !channel || !number) return { said: 'The number is no longer there.', again: false };
  const connector = await connectorOf(ctx, account);
  const failed = (why: string, again: boolean) => ({
    said: `${account.name} still posts to ${after}: ${why}.`,
    again,
  });
  try {
    await readAccountAgain(ctx, accountId);
    const now = await ctx.store.numbers.one({ id: numberId });
    // Somebody set another address there meanwhile, and knows better.
    if (now?.inbound_url && now.inbound_url !== after && now.inbound_url !== inboundUrl(ctx, channel)) return undefined;
    if (!connector.setInbound) return failed('there is no way to set it from here', false);
    const outcome = await connector.setInbound(
      openCredentials(ctx, account),
      { remoteId: number.remote_id, address: number.address },
      { ...before, challengeWord: channel.challenge_word ?? '' },
    );
    await ctx.store.write((unit) => unit.exchanges.insert(exchangeRows('set-inbound', channelId, outcome)));
    if (!outcome.ok) return failed(outcome.failure.said ?? outcome.failure.cause, true);
    await readAccountAgain(ctx, accountId);
    return undefined;
  } catch (error) {
    if (!isOperationError(error)) throw error;
    return failed(error.message.replace(/\.$/, ''), true);
  }
}

async function revertRoutes(ctx: AppContext, actor: Actor, { key, after }: ChangedRow): Promise<string[]> {
  const number = Number(key.number);
  const [latest] = await ctx.store.select<{ number: number }>('SELECT max(number) AS number FROM route_revisions');
  if (!after || latest?.number !== number) return ['The routes were published again since and stay as they are.'];
  if (number <= 1) return ['There were no routes before these.'];
  await returnToRevision(ctx, actor, number - 1);
  return [];
}

/** Says what could not be reverted, as sentences. */
async function revertRow(ctx: AppContext, unit: Unit, change: ChangedRow): Promise<string[]> {
  const { table, key, before, after } = change;
  const of = unit[table as 'channels'];
  const where = key as { id: string };
  const now = await rowNow(unit as never, change);
  const name = String(now?.name ?? before?.name ?? key.id ?? table);
  if (after === null) {
    if (now) return [];
    await of.insert([before as never]);
    return [];
  }
  if (!now) return [`${name} is no longer there.`];
  const changedSince = Object.keys(after).filter((column) => !same(ctx, column, now[column], after[column]));
  if (changedSince.length > 0)
    return [`${name} was changed again since (${changedSince.join(', ')}) and stays as it is.`];
  if (before === null) return takeAway(of, change, name, ctx.now());
  await of.change(where, before as never);
  return [];
}

/** What was added and can be switched off, by the column that says so. */
const SWITCHED_OFF: Readonly<Record<string, string>> = {
  accounts: 'disabled_at',
  apiKeys: 'revoked_at',
  subscriptions: 'disabled_at',
  hooks: 'disabled_at',
};

async function takeAway(of: Unit['channels'], { table, key }: ChangedRow, name: string, at: number): Promise<string[]> {
  const column = SWITCHED_OFF[table];
  if (column) await of.change(key as never, { [column]: at } as never);
  else if (table === 'fallbackRules') await of.remove(key as never);
  else return [`${name} was added and is still there.`];
  return [];
}

/** What is sealed differs each time it is sealed: it is compared open. */
function same(ctx: AppContext, column: string, one: unknown, other: unknown): boolean {
  const plain = (value: unknown) => JSON.stringify(value ?? null);
  if (plain(one) === plain(other)) return true;
  if (!column.startsWith('sealed') || typeof one !== 'string' || typeof other !== 'string') return false;
  return plain(ctx.sealer.open(one)) === plain(ctx.sealer.open(other));
}

/** The running trial of an id. */
export async function runningTrial(ctx: AppContext, id: string): Promise<ChangeTrialRow> {
  return found(await ctx.store.changeTrials.one({ id, state: 'running' }), 'running trial');
}
