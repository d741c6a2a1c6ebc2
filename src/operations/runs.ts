/**
 * Runs of automations: begun by whatever sets one in motion, performed by the engine step by
 * step. What is stored after each step is all that a restart needs.
 */
import { advance, newRun, type Outcome, type Run } from '../core/steps/run';
import type { Step } from '../core/steps/steps';
import { newId } from '../store/ids';
import type { RunRow, RunSource } from '../store/rows';
import type { Unit } from '../store/store';
import { noteChanges } from './changes';
import { createPerformer, type Performer } from './performing';
import { fault, recordFacts, type SubjectFact } from './proofs';
import type { Windgap } from './windgap';

export interface RunInput {
  appId: string;
  source: RunSource;
  /** The hook, feed or other automation. */
  sourceId: string;
  /** What it is about: a post, a row, an event. */
  subjectId: string;
  steps: Step[];
}

/** Puts a run into the queue, inside the unit that causes it. Ring 'runs' when the unit is written. */
export async function beginRun(unit: Unit, input: RunInput, at: number): Promise<string> {
  const id = newId('run', at);
  await unit.runs.insert([rowOf(id, input, newRun(input.steps.length, at), at)]);
  return id;
}

function rowOf(id: string, input: RunInput, run: Run, at: number): RunRow {
  return {
    id,
    app_id: input.appId,
    source: input.source,
    source_id: input.sourceId,
    subject_id: input.subjectId,
    steps: input.steps,
    ...columnsOf(run),
    lease_owner: null,
    created_at: at,
    ended_at: null,
  };
}

function columnsOf(run: Run) {
  const { next, state, attempts, results } = run;
  return { next, state, due_at: run.dueAt, attempts, first_attempt_at: run.firstAttemptAt ?? null, results };
}

function runOf(row: RunRow): Run {
  return {
    steps: row.steps.length,
    next: row.next,
    state: row.state,
    dueAt: row.due_at,
    attempts: row.attempts,
    firstAttemptAt: row.first_attempt_at ?? undefined,
    results: row.results,
  };
}

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
        if (ended) facts.push(...factsOf(row, run, at));
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

/** A run that was done proves its automation; one that failed breaks it. */
function factsOf(row: RunRow, run: Run, at: number): SubjectFact[] {
  if (run.state === 'done')
    return [{ subject: row.source_id, fact: { kind: 'called-in', began: row.created_at, at, ref: row.subject_id } }];
  return [fault(row.source_id, 'automation-failed', at, row.subject_id)];
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
