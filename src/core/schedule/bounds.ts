/**
 * Puts an end to counting. ical.js looks for the next time of a rule in one call, however
 * long that takes: for the 31st of February it looks for ever. Each of its small steps passes
 * here and is paid for, so that a rule which never comes to an end is a problem of its event.
 */
import ICAL from 'ical.js';

/** Steps that may still be taken; a step takes about a microsecond. */
export interface StepBudget {
  left: number;
}

/** Daily for a hundred years takes about half of it. */
export const STEPS_OF_EVENT = 200_000;

export class EndlessRule extends Error {
  constructor() {
    super('Its rule never comes to an end: it was counted through two hundred thousand steps in vain.');
  }
}

let paying: StepBudget | undefined;

/** Does what counts recurrences; throws `EndlessRule` where the budget is used up. */
export function within<T>(budget: StepBudget, work: () => T): T {
  const before = paying;
  paying = budget;
  try {
    return work();
  } finally {
    paying = before;
  }
}

function pay(steps: number): void {
  if (!paying) return;
  paying.left -= Math.abs(steps);
  if (!(paying.left >= 0)) throw new EndlessRule();
}

/** What every loop of the iterator calls in each turn; the days of `increment_monthday` are a loop of their own. */
const STEPS = [
  'increment_monthday',
  'increment_month',
  'increment_year',
  'increment_generic',
  'check_contracting_rules',
];

type Step = (this: unknown, ...given: number[]) => unknown;
const iterator = ICAL.RecurIterator.prototype as unknown as Record<string, Step | undefined>;
for (const name of STEPS) {
  const step = iterator[name];
  if (!step) throw new Error(`ical.js counts differently now: it has no ${name}`);
  iterator[name] = function (...given) {
    pay(name === 'increment_monthday' ? (given[0] ?? 1) : 1);
    return step.apply(this, given);
  };
}
