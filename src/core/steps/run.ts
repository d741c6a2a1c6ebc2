/**
 * The state of one run of an automation: which step is next, when, and what became of those
 * before. A pure state machine; whoever performs the steps tells it the outcomes. It is
 * stored after each step, so a restart goes on where it stopped.
 */
import type { CauseCode } from '../delivery/causes';
import type { Finding } from '../finding';
import { nextAttemptAt, type RetryPlan } from '../signing/retryPlan';

/** `aside`: Windgap itself failed at it again and again, and a person decides. */
export type RunState = 'due' | 'waiting' | 'done' | 'failed' | 'cancelled' | 'aside';

export interface StepResult {
  /** Which step, from 0. */
  step: number;
  at: number;
  did: 'done' | 'failed' | 'tried';
  /** In words for the log. */
  said: string;
  /** What came of it: the id of a message, of a record. */
  ref?: string;
  cause?: CauseCode;
  finding?: Finding;
}

export interface Run {
  steps: number;
  /** The step to do next; equal to `steps` when all are done. */
  next: number;
  state: RunState;
  dueAt: number;
  /** Of the step to do next. */
  attempts: number;
  firstAttemptAt?: number;
  results: StepResult[];
  /** What steps leave for steps after them, by name. */
  memory: Readonly<Record<string, string>>;
}

export type Outcome =
  /** `goTo`: the step to go on with, where it is not the next; never one before. */
  | { kind: 'done'; said: string; ref?: string; goTo?: number; remember?: Readonly<Record<string, string>> }
  /** Not before the given time, which is not an attempt. */
  | { kind: 'not-yet'; until: number; remember?: Readonly<Record<string, string>> }
  /** It may work later. */
  | { kind: 'again'; said: string; cause?: CauseCode /** Milliseconds. */; retryAfter?: number }
  /** It never will, as things are. */
  | { kind: 'failed'; finding: Finding; cause?: CauseCode };

/** Seconds first, for a hiccup; then hours, for an app that is down. Whatever waits longer has lost its point. */
export const STEP_RETRIES: RetryPlan = {
  delays: [5, 15, 60, 300, 900, 3600, 2 * 3600, 4 * 3600, 8 * 3600].map((seconds) => seconds * 1000),
  horizon: 24 * 3_600_000,
};

/** A run about to begin; `steps` is how many there are. */
export function newRun(steps: number, at: number): Run {
  return { steps, next: 0, state: steps === 0 ? 'done' : 'due', dueAt: at, attempts: 0, results: [], memory: {} };
}

/** `jitter` in [0, 1) keeps many runs from trying again at once. */
export function advance(run: Run, outcome: Outcome, now: number, jitter: number): Run {
  if (run.state !== 'due' && run.state !== 'waiting') return run;
  if (outcome.kind === 'not-yet')
    return { ...run, state: 'waiting', dueAt: outcome.until, memory: { ...run.memory, ...outcome.remember } };
  if (outcome.kind === 'done') {
    const next = Math.min(run.steps, Math.max(run.next + 1, outcome.goTo ?? 0));
    const { said, ref } = outcome;
    return {
      steps: run.steps,
      next,
      state: next === run.steps ? 'done' : 'due',
      dueAt: now,
      attempts: 0,
      results: [...run.results, { step: run.next, at: now, did: 'done', said, ref }],
      memory: { ...run.memory, ...outcome.remember },
    };
  }
  if (outcome.kind === 'failed')
    return ended(run, now, { said: outcome.finding.problem, finding: outcome.finding, cause: outcome.cause });
  const firstAttemptAt = run.firstAttemptAt ?? now;
  const attempts = run.attempts + 1;
  const { said, cause, retryAfter } = outcome;
  const at = nextAttemptAt(STEP_RETRIES, { attempts, firstAttemptAt, now, askedDelay: retryAfter, jitter });
  if (at === undefined) return ended({ ...run, attempts, firstAttemptAt }, now, { said, cause });
  const tried: StepResult = { step: run.next, at: now, did: 'tried', said, cause };
  // The first attempts tell what is wrong and the last ones how it stands; those between only that it went on.
  const results = attempts > 4 ? [...run.results.slice(0, -1), tried] : [...run.results, tried];
  return { ...run, state: 'due', attempts, firstAttemptAt, dueAt: at, results };
}

function ended(run: Run, now: number, why: Pick<StepResult, 'said' | 'cause' | 'finding'>): Run {
  return { ...run, state: 'failed', results: [...run.results, { step: run.next, at: now, did: 'failed', ...why }] };
}

/** Ends a run that is no longer wanted; what it did stays done. */
export function cancel(run: Run, now: number, why: string): Run {
  if (run.state !== 'due' && run.state !== 'waiting') return run;
  return {
    ...run,
    state: 'cancelled',
    results: [...run.results, { step: run.next, at: now, did: 'failed', said: why }],
  };
}
