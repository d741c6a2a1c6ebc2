/**
 * Performs runs of automations step by step. What is stored after each step is all that a
 * restart needs: a step that was under way when the engine ended is done again.
 */
import { advance, type Outcome, type Run } from '../../core/steps/run';
import type { Step } from '../../core/steps/steps';
import { createBatcher } from '../../store/batcher';
import type { RunRow } from '../../store/schema/rows';
import { type AppContext, noteChanges } from '../context';
import { todosOfFailed } from '../conversations';
import { recordFacts, type SubjectFact } from '../proofs';
import { columnsOf, factsOf, runOf, runQueue } from '../runs';
import { ABANDONED_AFTER, aloneAfterFailure, LOST_EVERY, noteFailure } from '../workQueue';
import { createPerformer, type Performer } from './stepExecutor';

const AT_ONCE = 100;

/** Runs an earlier engine was at when it ended; every step may be done again without harm. */
export async function recoverRuns(ctx: AppContext): Promise<number> {
  return ctx.store.write((unit) =>
    unit.execute(
      'UPDATE runs SET lease_owner = NULL, leased_at = NULL WHERE lease_owner IS NOT NULL AND ended_at IS NULL',
    ),
  );
}

export interface Runner {
  /** Begins the next step of each due run. Returns in how many milliseconds something is due next. */
  round(owner: string): Promise<number | undefined>;
  /** Ends when every step under way is noted. */
  drained(): Promise<void>;
}

/** `ring` is called when there may be more to do. One app that is slow keeps nobody else's steps waiting. */
export function createRunner(ctx: AppContext, ring: () => void): Runner {
  const performer = createPerformer(ctx);
  const underWay = new Map<string, Promise<void>>();
  let lookedForLostAt = ctx.now();
  const note = createBatcher<Performed, void>(async (performed) => {
    await noteOutcomes(ctx, performed);
    return performed.map(() => undefined);
  });

  async function doStep(row: RunRow): Promise<void> {
    try {
      await note({ row, outcome: await perform(ctx, performer, row) });
    } catch (error) {
      // What is the store's own trouble passes; the lease is taken back after a while.
      await noteFailure(ctx, runQueue, row.id, error).catch((trouble) =>
        ctx.log.error({ err: trouble, run: row.id }, 'a step could not be noted; it is done again'),
      );
    }
  }

  async function takeBackLost(): Promise<void> {
    const now = ctx.now();
    if (now - lookedForLostAt < LOST_EVERY) return;
    lookedForLostAt = now;
    const lost = await ctx.store.write((unit) =>
      unit.execute(
        `UPDATE runs SET lease_owner = NULL, leased_at = NULL
          WHERE lease_owner IS NOT NULL AND state IN ('due', 'waiting') AND coalesce(leased_at, 0) < :before AND id NOT IN (:held)`,
        { before: now - ABANDONED_AFTER, held: [...underWay.keys()] },
      ),
    );
    if (lost > 0) ctx.log.warn({ runs: lost }, 'steps whose outcome was not noted are done again');
  }

  return {
    async round(owner) {
      await takeBackLost();
      const room = AT_ONCE - underWay.size;
      if (room <= 0) return undefined;
      const rows = await claim(ctx, owner, room);
      for (const row of rows) {
        const step = doStep(row).finally(() => {
          underWay.delete(row.id);
          ring();
        });
        underWay.set(row.id, step);
      }
      return rows.length === room ? undefined : nextDue(ctx);
    },
    async drained() {
      await Promise.all(underWay.values());
    },
  };
}

interface Performed {
  row: RunRow;
  outcome: Outcome;
}

async function noteOutcomes(ctx: AppContext, performed: readonly Performed[]): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const facts: SubjectFact[] = [];
    // While a step was under way its run may have been told something: an answer that came in.
    const fresh = new Map(
      (
        await unit.runs.allBy(
          'id',
          performed.map(({ row }) => row.id),
        )
      ).map((row) => [row.id, row]),
    );
    const after = performed.map(({ row, outcome }) => {
      const run = soon(advance(runOf(fresh.get(row.id) ?? row), outcome, at, Math.random()), at);
      const ended = run.state !== 'due' && run.state !== 'waiting';
      facts.push(...factsOf(row, run, at));
      return {
        id: row.id,
        ...columnsOf(run),
        lease_owner: null,
        leased_at: null,
        ended_at: ended ? (fresh.get(row.id)?.ended_at ?? at) : null,
      };
    });
    await unit.runs.changeEach('id', after);
    const failed = new Set(after.flatMap(({ id, state }) => (state === 'failed' ? [id] : [])));
    if (failed.size > 0) await todosOfFailed(unit, await unit.runs.allBy('id', [...failed]), at);
    await recordFacts(unit, facts, at);
    await noteChanges(
      unit,
      at,
      performed.map(({ row }) => ['run', row.source_id] as const),
    );
  });
}

/** A run that waits for an answer which is there already goes on at once. */
function soon(run: Run, at: number): Run {
  return run.state === 'waiting' && run.memory[`answer.${run.next}`] !== undefined
    ? { ...run, state: 'due', dueAt: at }
    : run;
}

/** What a step does may fail in ways nobody foresaw; that is this run's misfortune and not its neighbours'. */
async function perform(ctx: AppContext, performer: Performer, row: RunRow): Promise<Outcome> {
  const step = row.steps[row.next] as Step;
  try {
    return await performer(step, row);
  } catch (error) {
    ctx.log.error({ err: error, run: row.id }, 'a step could not be done');
    return { kind: 'again', said: 'Windgap could not do this step; its log says why' };
  }
}

/**
 * Takes due runs, oldest first; of those about one person only the first, and none while another is under way, so that two
 * of them never look at a record before either has changed it.
 */
async function claim(ctx: AppContext, owner: string, most: number): Promise<RunRow[]> {
  const due = await ctx.store.select<{ id: string }>(
    `SELECT id FROM runs r WHERE state IN ('due', 'waiting') AND lease_owner IS NULL AND due_at <= :now
        AND (turn IS NULL OR NOT EXISTS (
          SELECT 1 FROM runs e WHERE e.turn = r.turn AND e.state IN ('due', 'waiting')
             AND (e.lease_owner IS NOT NULL OR (e.due_at <= :now AND (e.due_at, e.id) < (r.due_at, r.id)))))
      ORDER BY due_at, id LIMIT :most`,
    { now: ctx.now(), most },
  );
  const ids = due.map(({ id }) => id);
  const claimed = await aloneAfterFailure(ctx, runQueue, ids, (some) => lease(ctx, owner, some));
  return claimed.flat();
}

/** In one unit, which holds for none of them where one cannot be read. */
function lease(ctx: AppContext, owner: string, ids: readonly string[]): Promise<RunRow[]> {
  return ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      await unit.execute(
        `UPDATE runs SET lease_owner = :owner, leased_at = :at
          WHERE id IN (:ids) AND lease_owner IS NULL AND state IN ('due', 'waiting') AND due_at <= :at`,
        { owner, at, ids: [...ids] },
      );
      const rows = await unit.runs.allBy('id', ids);
      return rows.filter(({ lease_owner, leased_at }) => lease_owner === owner && leased_at === at).sort(byTime);
    },
    { durable: false },
  );
}

const byTime = (a: RunRow, b: RunRow) => a.due_at - b.due_at || (a.id < b.id ? -1 : 1);

/** What is due and was not claimed waits for another about the same person, whose end rings. */
async function nextDue(ctx: AppContext): Promise<number | undefined> {
  const now = ctx.now();
  const [row] = await ctx.store.select<{ at: number | null }>(
    `SELECT min(due_at) AS at FROM runs WHERE state IN ('due', 'waiting') AND lease_owner IS NULL AND due_at > :now`,
    { now },
  );
  return row?.at === null || row?.at === undefined ? undefined : Math.max(0, row.at - ctx.now());
}
