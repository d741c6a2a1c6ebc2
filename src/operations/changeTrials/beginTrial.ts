/** Makes a change of the set-up on trial: what it changes is noted, and what must be proven for it to stay. */
import { type ChangedRow, ChangeTrace, traced } from '../../core/changeTrace';
import { type TrialNeed, trialNeeds } from '../../core/proof/trialNeeds';
import { newId } from '../../store/ids';
import type { ChangeTrialRow } from '../../store/schema/rows';
import type { Store } from '../../store/store';
import { type Actor, type AppContext, noteChanges, recordAudit, requireRole } from '../context';
import { askForRuns } from '../deliveryTests';

export const SHORTEST_TRIAL = 1;
export const LONGEST_TRIAL = 240;
const MINUTE = 60_000;
/** Delivery tests that a trial asks for by itself. */
const MOST_TESTS = 5;

/**
 * Does some work; what it changes of the set-up is on trial for so many minutes. Returns the trials it made: none where
 * nothing was changed that anything works by. What was changed before the work threw is on trial, too.
 */
export async function onTrial<Result>(
  ctx: AppContext,
  actor: Actor,
  minutes: number,
  work: () => Promise<Result>,
  began: (trial: ChangeTrialRow) => void,
): Promise<Result> {
  requireRole(actor, 'administrator');
  const trace = new ChangeTrace();
  const since = ctx.now();
  try {
    return await traced(trace, work);
  } finally {
    const length = Math.min(Math.max(Math.round(minutes), SHORTEST_TRIAL), LONGEST_TRIAL);
    const trial = await begin(ctx, actor, trace, since, length);
    if (trial) began(trial);
  }
}

async function begin(
  ctx: AppContext,
  actor: Actor,
  trace: ChangeTrace,
  since: number,
  minutes: number,
): Promise<ChangeTrialRow | undefined> {
  const needs = await needsOf(ctx, trace);
  if (needs.length === 0) return undefined;
  const at = ctx.now();
  const row: ChangeTrialRow = {
    id: newId('ctr', at),
    what: trace.summaries.join('; ').slice(0, 500) || 'Changed the set-up',
    by_id: actor.id,
    by_name: actor.name,
    begun_at: since,
    until_at: at + minutes * MINUTE,
    sealed_rows: trace.rows,
    outside: trace.outside,
    needs,
    state: 'running',
    said: null,
    ended_at: null,
    seen_at: null,
  };
  await ctx.store.write(async (unit) => {
    await unit.changeTrials.insert([row]);
    await recordAudit(unit, actor, at, {
      action: 'change-trial.begun',
      subject: row.id,
      summary: `On trial for ${minutes} min: ${row.what}`,
    });
    await noteChanges(unit, at, [['trial', row.id]]);
  });
  await runTests(ctx, actor, needs);
  return row;
}

async function needsOf(ctx: AppContext, trace: ChangeTrace): Promise<TrialNeed[]> {
  if (trace.rows.length === 0 && trace.hops.length === 0) return [];
  const { store } = ctx;
  const whole = new Map(
    await Promise.all(trace.rows.map(async (change) => [change, await rowNow(store, change)] as const)),
  );
  const [channels, accounts, proofs] = await Promise.all([
    store.channels.all(),
    store.accounts.all({ disabled_at: null }),
    store.proofs.all(),
  ]);
  return trialNeeds(trace, {
    rowOf: (change) => whole.get(change) ?? change.after ?? change.before ?? undefined,
    channelsOf: (what, id) => {
      const own = new Set(accounts.filter(({ connector }) => connector === id).map((account) => account.id));
      return channels
        .filter(({ number_id, account_id }) => (what === 'number' ? number_id === id : own.has(account_id)))
        .map((channel) => channel.id);
    },
    applies: (subject, hop) =>
      proofs.some((proof) => proof.subject_id === subject && proof.hop === hop && proof.state !== 'not-applicable'),
  });
}

/** A row of the set-up as it is now. */
export async function rowNow(
  tables: Pick<Store, keyof Store>,
  { table, key }: Pick<ChangedRow, 'table' | 'key'>,
): Promise<Readonly<Record<string, unknown>> | undefined> {
  const of = tables[table as 'channels'];
  return (await of.one(key as never)) as Readonly<Record<string, unknown>> | undefined;
}

/** The delivery tests that go over what was changed prove it sooner than somebody who happens to write. */
async function runTests(ctx: AppContext, actor: Actor, needs: readonly TrialNeed[]): Promise<void> {
  const subjects = needs.flatMap((need) => (need.kind === 'hop' ? need.anyOf : []));
  if (subjects.length === 0) return;
  const tests = await ctx.store.deliveryTests.all({ archived_at: null });
  const over = tests.filter(({ content }) => {
    const written = JSON.stringify(content);
    return subjects.some((subject) => written.includes(`"${subject}"`));
  });
  if (over.length === 0) return;
  const ids = over.slice(0, MOST_TESTS).map(({ id }) => id);
  // A test that cannot be run is no reason against the trial: traffic may still prove it.
  await askForRuns(ctx, actor, ids, 'on-trial').catch((error: unknown) =>
    ctx.log.warn({ err: error }, 'the delivery tests of a change on trial were not run'),
  );
}
