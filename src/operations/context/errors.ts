import { changeTrace } from '../../core/changeTrace';
import type { Finding } from '../../core/finding';

/** Why an operation was not done. `findings` name the field they belong to where there is one. */
export class OperationError extends Error {
  constructor(
    /**
     * `conflict`: it is not in the state for it any more. `key-reused`: an idempotency key was used for something else.
     * `signed-out`: the session ended. `unconfirmed`: whoever asks has to show again that it is they.
     */
    readonly kind:
      | 'forbidden'
      | 'not-found'
      | 'invalid'
      | 'conflict'
      | 'key-reused'
      | 'too-often'
      | 'signed-out'
      | 'unconfirmed',
    message: string,
    readonly findings: readonly { field: string; finding: Finding }[] = [],
  ) {
    super(message);
    this.name = 'OperationError';
  }
}

/** By name and not by class: server and pages are separate bundles, each with a class of its own. */
export function isOperationError(error: unknown): error is OperationError {
  return error instanceof Error && error.name === 'OperationError';
}

export function invalid(field: string, finding: Finding): OperationError {
  return new OperationError('invalid', finding.problem, [{ field, finding }]);
}

export function invalidText(field: string, problem: string, remedy: string): OperationError {
  return invalid(field, { code: 'invalid', severity: 'error', problem, remedy });
}

/** The row, or a not-found error that names what was looked for. */
export function found<Row>(row: Row | undefined, what: string): Row {
  if (!row) throw new OperationError('not-found', `There is no such ${what}.`);
  return row;
}

/** Throws where the change is made on trial: nothing would reverted it. `why` is a sentence without its end. */
export function notOnTrial(why: string): void {
  if (changeTrace()) throw new OperationError('invalid', `${why}. Make this change at once instead of on trial.`);
}
