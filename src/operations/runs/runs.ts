/** Runs of automations as they are stored: begun by whatever sets one in motion, inside the unit that causes it. */
import type { CauseCode } from '../../core/delivery/causes';
import type { Finding } from '../../core/finding';
import { advance, newRun, type Run } from '../../core/steps/run';
import type { Step } from '../../core/steps/steps';
import { newId } from '../../store/ids';
import type { RunRow, RunSource } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { fault, recordFacts, type SubjectFact } from '../proofs';

export interface RunInput {
  appId: string;
  source: RunSource;
  /** The hook, feed or other automation. */
  sourceId: string;
  /** What it is about: a post, a row, an event. */
  subjectId: string;
  steps: Step[];
  /** Whom a route's run is about. */
  contactId?: string;
  stopsOnReply?: boolean;
  /** Runs with the same one are performed one after the other: the person whose records they touch, and where these are. */
  turn?: string;
  memory?: Record<string, string>;
  /** Set in motion by a delivery test, which proves nothing of whoever sets it in motion otherwise. */
  asTest?: boolean;
  /** Why nothing can be done from the start; it is kept with the others all the same. */
  failed?: { finding: Finding; cause: CauseCode };
}

const AS_TEST = 'test';

/** Puts a run into the queue, inside the unit that causes it. Ring 'runs' when the unit is written. */
export async function beginRun(unit: Unit, input: RunInput, at: number): Promise<string> {
  const [id] = await beginRuns(unit, [input], at);
  return id as string;
}

/** Many in one statement. Returns their ids in the same order. */
export async function beginRuns(unit: Unit, inputs: readonly RunInput[], at: number): Promise<string[]> {
  const rows = inputs.map((input) => {
    const memory = { ...input.memory, ...(input.asTest ? { [AS_TEST]: 'yes' } : {}) };
    const begun = { ...newRun(input.steps.length, at), memory };
    const run = input.failed ? advance(begun, { kind: 'failed', ...input.failed }, at, 0) : begun;
    return { ...rowOf(newId('run', at), input, run, at), ended_at: input.failed ? at : null };
  });
  await unit.runs.insert(rows);
  await recordFacts(
    unit,
    rows.flatMap((row) => (row.ended_at === null ? [] : factsOf(row, runOf(row), at))),
    at,
  );
  return rows.map(({ id }) => id);
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
    contact_id: input.contactId ?? null,
    awaiting: 0,
    stops_on_reply: input.stopsOnReply ? 1 : 0,
    turn: input.turn ?? null,
    lease_owner: null,
    leased_at: null,
    created_at: at,
    ended_at: null,
  };
}

export function columnsOf(run: Run) {
  const { next, state, attempts, results, memory } = run;
  return {
    next,
    state,
    due_at: run.dueAt,
    attempts,
    first_attempt_at: run.firstAttemptAt ?? null,
    results,
    memory: { ...memory },
  };
}

export function runOf(row: RunRow): Run {
  return {
    steps: row.steps.length,
    next: row.next,
    state: row.state,
    dueAt: row.due_at,
    attempts: row.attempts,
    firstAttemptAt: row.first_attempt_at ?? undefined,
    results: row.results,
    memory: row.memory,
  };
}

/** A run that was done proves its automation; one that failed, or that its app keeps waiting, breaks it. */
export function factsOf(row: RunRow, run: Run, at: number): SubjectFact[] {
  // What a route did shows on the message's trail; no app's path is proven by it.
  if (row.source === 'route' || run.memory[AS_TEST]) return [];
  const last = run.results.at(-1);
  const out = row.source === 'record' || row.source === 'sheet-append';
  const subjects = out ? [row.source_id, row.app_id] : [row.source_id];
  if (run.state === 'done') {
    // Telling people about an answer proves nothing of the way it took.
    if (row.steps.every(({ kind }) => kind === 'notify')) return [];
    const kind = out ? 'called-out' : 'called-in';
    return subjects.map((subject) => ({ subject, fact: { kind, began: row.created_at, at, ref: row.subject_id } }));
  }
  const cause = last?.cause ?? (run.state === 'failed' ? 'automation-failed' : undefined);
  return cause ? subjects.map((subject) => fault(subject, cause, at, row.subject_id)) : [];
}
