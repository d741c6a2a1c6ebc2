/**
 * Notes what a piece of work changes of the set-up, row by row and at providers, so that it can be reverted. Whoever does
 * the work is asked nothing: tables and what calls providers look here whether somebody notes.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { HopName } from './proof/hops';

export type RowKey = Readonly<Record<string, string | number>>;
export type RowValues = Readonly<Record<string, unknown>>;

/** One row as it was and as it became: what differs of it, or all of it where it was not there or is there no more. */
export interface ChangedRow {
  table: string;
  key: RowKey;
  before: RowValues | null;
  after: RowValues | null;
}

/** The address a provider posts to was changed there. */
export interface ChangedOutside {
  accountId: string;
  numberId: string;
  channelId: string;
  /** What it had; empty for nothing. */
  before: { url: string; fallback: string };
  /** What it was given. */
  after: string;
}

export class ChangeTrace {
  readonly rows: ChangedRow[] = [];
  readonly outside: ChangedOutside[] = [];
  /** What was done, in the words of the audit. */
  readonly summaries: string[] = [];
  /** Hops that are unproven since. */
  readonly hops: { subject: string; hops: readonly HopName[] }[] = [];

  /** Of a row that is changed twice, what it was first and what it became last. */
  row(next: ChangedRow): void {
    const same = this.rows.find(
      ({ table, key }) => table === next.table && JSON.stringify(key) === JSON.stringify(next.key),
    );
    if (!same) this.rows.push(next);
    else if (same.before && same.after && next.before && next.after) {
      same.before = { ...next.before, ...same.before };
      same.after = { ...same.after, ...next.after };
    } else same.after = next.after && same.after ? { ...same.after, ...next.after } : next.after;
  }
}

/** One for all copies of this module: pages and server are bundles of their own in the same process. */
const SHARED = Symbol.for('windgap.changeTrace');
const shared = globalThis as { [SHARED]?: AsyncLocalStorage<ChangeTrace> };
shared[SHARED] ??= new AsyncLocalStorage<ChangeTrace>();
const traces = shared[SHARED];

/** Does the work and notes in the trace what it changes, even where it throws at last. */
export function traced<Result>(trace: ChangeTrace, work: () => Promise<Result>): Promise<Result> {
  return traces.run(trace, work);
}

/** Does the work without anything being noted of it. */
export function untraced<Result>(work: () => Promise<Result>): Promise<Result> {
  return traces.exit(work);
}

/** The trace of the work this is part of; undefined while nobody notes. */
export function changeTrace(): ChangeTrace | undefined {
  return traces.getStore();
}
