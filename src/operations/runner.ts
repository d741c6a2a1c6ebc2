/**
 * Performs runs of automations step by step. What is stored after each step is all that a
 * restart needs: a step that was under way when the engine ended is done again.
 */
import { advance, type Outcome } from '../core/steps/run';
import type { Step } from '../core/steps/steps';
import type { RunRow } from '../store/rows';
import { noteChanges } from './changes';
import { createPerformer, type Performer } from './performing';
import { recordFacts, type SubjectFact } from './proofs';
import { columnsOf, factsOf, runOf } from './runs';
import type { Windgap } from './windgap';

const AT_ONCE = 100;

/** Runs an earlier engine was at when it ended; every step may be done again without harm. */
export async function recoverRuns(w: Windgap): Promise<number> {
  return w.store.write((unit) =>
    unit.execute('UPDATE runs SET lease_owner = NULL WHERE lease_owner IS NOT NULL AND ended_at IS NULL'),
  );
}

export type Runner = (owner: string) => Promise<number | undefined>;

/** One round: performs the next step of each due run. Answers in how many milliseconds something is due next. */
export function createRunner(w: Windgap): Runner {
  const performer = createPerformer(w);
  return async (owner) => {
    const rows = await claim(w, owner);
    if (rows.length === 0) return nextDue(w);
    const outcomes = await Promise.all(rows.map((row) => perform(w, performer, row)));
    await w.store.write(async (unit) => {
      const at = w.now();
      const facts: SubjectFact[] = [];
      const after = rows.map((row, index) => {
        const run = advance(runOf(row), outcomes[index] as Outcome, at, Math.random());
        const ended = run.state === 'done' || run.state === 'failed';
        facts.push(...factsOf(row, run, at));
        return { id: row.id, ...columnsOf(run), lease_owner: null, ended_at: ended ? at : null };
      });
      await unit.runs.changeEach('id', after);
      await recordFacts(unit, facts, at);
      await noteChanges(
        unit,
        at,
        rows.map((row) => ['run', row.source_id] as const),
      );
    });
    return 0;
  };
}

/** What a step does may fail in ways nobody foresaw; that is this run's misfortune and not its neighbours'. */
async function perform(w: Windgap, performer: Performer, row: RunRow): Promise<Outcome> {
  const step = row.steps[row.next] as Step;
  try {
    return await performer(step, row);
  } catch (error) {
    w.log.error({ err: error, run: row.id }, 'a step could not be done');
    return { kind: 'again', said: 'Windgap could not do this step; its log says why' };
  }
}

function claim(w: Windgap, owner: string): Promise<RunRow[]> {
  return w.store.write(
    async (unit) => {
      const rows = unit.runs.read(
        await unit.select<RunRow>(
          `SELECT * FROM runs WHERE state IN ('due', 'waiting') AND lease_owner IS NULL AND due_at <= :now ORDER BY due_at, id LIMIT ${AT_ONCE}`,
          { now: w.now() },
        ),
      );
      if (rows.length > 0)
        await unit.execute('UPDATE runs SET lease_owner = :owner WHERE id IN (:ids)', {
          owner,
          ids: rows.map(({ id }) => id),
        });
      return rows;
    },
    { durable: false },
  );
}

async function nextDue(w: Windgap): Promise<number | undefined> {
  const [row] = await w.store.select<{ at: number | null }>(
    `SELECT min(due_at) AS at FROM runs WHERE state IN ('due', 'waiting') AND lease_owner IS NULL`,
  );
  return row?.at === null || row?.at === undefined ? undefined : Math.max(0, row.at - w.now());
}
