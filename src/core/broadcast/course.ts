/**
 * The course of a broadcast: the states it goes through, and what makes it hold itself. It begins small; what became of
 * the first ones decides whether the others follow; the same rules watch it to its end.
 */

export const STATES = [
  'draft',
  'planning',
  'approval',
  'scheduled',
  'running',
  'held',
  'finished',
  'cancelled',
] as const;
export type BroadcastState = (typeof STATES)[number];

export const STATE_WORDS: Record<BroadcastState, string> = {
  draft: 'Draft',
  planning: 'Being planned',
  approval: 'Waits for approval',
  scheduled: 'Scheduled',
  running: 'Running',
  held: 'Held',
  finished: 'Finished',
  cancelled: 'Cancelled',
};

export type Verb =
  | 'start'
  | 'planned'
  | 'needs-approval'
  | 'approve'
  | 'send-back'
  | 'begin'
  | 'hold'
  | 'resume'
  | 'finish'
  | 'cancel';

const MOVES: Record<Verb, { from: readonly BroadcastState[]; to: BroadcastState }> = {
  start: { from: ['draft'], to: 'planning' },
  'needs-approval': { from: ['planning'], to: 'approval' },
  approve: { from: ['approval'], to: 'scheduled' },
  'send-back': { from: ['planning', 'approval', 'scheduled'], to: 'draft' },
  planned: { from: ['planning'], to: 'scheduled' },
  begin: { from: ['scheduled'], to: 'running' },
  hold: { from: ['scheduled', 'running'], to: 'held' },
  resume: { from: ['held'], to: 'running' },
  finish: { from: ['running'], to: 'finished' },
  cancel: { from: ['planning', 'approval', 'scheduled', 'running', 'held'], to: 'cancelled' },
};

/** The state after it; undefined where it cannot be done in this one. */
export function stateAfter(state: BroadcastState, verb: Verb): BroadcastState | undefined {
  const { from, to } = MOVES[verb];
  return from.includes(state) ? to : undefined;
}

export interface HoldRules {
  /** How many go out alone first; 0: none do. */
  first: number;
  /** The share of those whose outcome has to be known before it goes on, 0 to 1. */
  known: number;
  /** Longest wait for their outcomes, minutes after the last of them left. */
  waitMinutes: number;
  /** Shares of those whose outcome is known above which it holds itself, 0 to 1; judged by `isAbove`. */
  failed: number;
  optedOut: number;
  /** Of those that were accepted long enough ago: share without any receipt. */
  silent: number;
  /** No share is judged on fewer. */
  sample: number;
}

export const USUAL_RULES: HoldRules = {
  first: 50,
  known: 0.9,
  waitMinutes: 15,
  failed: 0.1,
  optedOut: 0.03,
  silent: 0.5,
  sample: 20,
};

/** What became of those that left, or of some of them. */
export interface Outcomes {
  /** Taken into the outbox and not handed over yet. */
  waiting: number;
  sent: number;
  delivered: number;
  failed: number;
  uncertain: number;
  optedOut: number;
  /** Handed over longer ago than receipts usually take here, and nothing came. */
  silent: number;
  /** Whether this path brings receipts at all. */
  receipts: boolean;
  /** By ISO 3166-1: of those that left. */
  countries: readonly { country: string; known: number; failed: number; cause?: string }[];
}

/** What else stands against going on. */
export interface Surroundings {
  /** In words: the channel’s outbound hop is broken. */
  broken?: string;
  /** In words: the template was paused or withdrawn. */
  template?: string;
  /** In words: the balance is at its reserve. */
  balance?: string;
}

export interface Hold {
  code: 'failures' | 'opt-outs' | 'silence' | 'country' | 'path-broken' | 'template' | 'balance';
  problem: string;
  remedy: string;
}

const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;

/**
 * Whether a share lies above a limit, as far as so few say: the lower end of the interval by Wilson's score, one standard
 * error wide (Wilson, Probable inference, 1927). One who opts out of thirty is no 3 %, three of fifty are.
 */
export function isAbove(n: number, of: number, limit: number): boolean {
  if (of === 0) return false;
  const share = n / of;
  const middle = share + 1 / (2 * of);
  const error = Math.sqrt((share * (1 - share)) / of + 1 / (4 * of * of));
  return (middle - error) / (1 + 1 / of) > limit;
}

/** Why it holds itself now; undefined while nothing speaks against it. */
export function reasonToHold(rules: HoldRules, outcomes: Outcomes, around: Surroundings): Hold | undefined {
  if (around.broken)
    return { code: 'path-broken', problem: around.broken, remedy: 'Fix the channel, prove it again, and resume.' };
  if (around.template)
    return {
      code: 'template',
      problem: around.template,
      remedy: 'Revise the template and have it approved, or cancel.',
    };
  if (around.balance)
    return {
      code: 'balance',
      problem: around.balance,
      remedy: 'Add credit at the provider, check the account, and resume.',
    };
  const known = outcomes.delivered + outcomes.failed;
  // A path that brings no receipts tells only what was refused: what was accepted counts as well there.
  const judged = outcomes.receipts ? known : known + outcomes.sent;
  const alone = failsAlone(rules, outcomes);
  if (alone) return ofCountry(alone);
  if (judged >= rules.sample && isAbove(outcomes.failed, judged, rules.failed))
    return {
      code: 'failures',
      problem: `${outcomes.failed} of ${judged} failed, ${percent(outcomes.failed / judged)}; it holds above ${percent(rules.failed)}.`,
      remedy: 'Read below what they failed for. Resume when that is over, or cancel.',
    };
  const reached = outcomes.receipts ? outcomes.delivered : outcomes.sent + outcomes.delivered;
  if (reached >= rules.sample && isAbove(outcomes.optedOut, reached, rules.optedOut))
    return {
      code: 'opt-outs',
      problem: `${outcomes.optedOut} of ${reached} opted out upon it, ${percent(outcomes.optedOut / reached)}; it holds above ${percent(rules.optedOut)}.`,
      remedy: 'Ask whether these people expect this message. Resume, or cancel.',
    };
  const due = outcomes.silent + known;
  if (outcomes.receipts && due >= rules.sample && isAbove(outcomes.silent, due, rules.silent))
    return {
      code: 'silence',
      problem: `${outcomes.silent} of ${due} were accepted longer ago than receipts take here, and none came.`,
      remedy: 'See whether receipts reach Windgap at all: the channel’s receipt hop says it. Then resume.',
    };
  return undefined;
}

type Country = Outcomes['countries'][number];

interface Alone extends Country {
  others: { known: number; failed: number };
}

/** A country that fails while enough is known of the others to say that they do not. */
function failsAlone(rules: HoldRules, { countries }: Outcomes): Alone | undefined {
  const least = Math.max(5, Math.ceil(rules.sample / 4));
  const [worst] = countries
    .filter(({ known, failed }) => known >= least && isAbove(failed, known, Math.max(0.5, rules.failed)))
    .sort((a, b) => b.failed - a.failed);
  if (!worst) return undefined;
  const others = { known: 0, failed: 0 };
  for (const each of countries) {
    if (each === worst) continue;
    others.known += each.known;
    others.failed += each.failed;
  }
  return others.known >= least && others.failed / others.known <= rules.failed ? { ...worst, others } : undefined;
}

function ofCountry({ country, known, failed, cause, others }: Alone): Hold {
  return {
    code: 'country',
    problem: `${failed} of ${known} to ${country} failed${cause ? `, most as “${cause}”` : ''}; elsewhere ${others.failed} of ${others.known} did.`,
    remedy: 'Leave the country out and resume, or find out what refuses there first.',
  };
}

export type FirstSteps = { say: 'wait' } | { say: 'go on' } | { say: 'hold'; why: Hold };

/**
 * What the first ones say, when all of them have left: it waits until enough outcomes are known or the longest wait is
 * over. Too few known by then is itself a reason to hold where receipts come at all.
 */
export function judgeFirst(
  rules: HoldRules,
  outcomes: Outcomes,
  around: Surroundings,
  { lastLeftAt, now }: { lastLeftAt: number; now: number },
): FirstSteps {
  const why = reasonToHold({ ...rules, sample: Math.min(rules.sample, Math.max(1, rules.first)) }, outcomes, around);
  if (why) return { say: 'hold', why };
  const left = outcomes.sent + outcomes.delivered + outcomes.failed + outcomes.uncertain;
  const known = outcomes.delivered + outcomes.failed;
  if (outcomes.waiting > 0) return { say: 'wait' };
  if (!outcomes.receipts) return { say: 'go on' };
  if (left === 0 || known / left >= rules.known) return { say: 'go on' };
  if (now < lastLeftAt + rules.waitMinutes * 60_000) return { say: 'wait' };
  // The wait is over. Most of it known and well is enough; silence is not.
  if (known / left >= 1 - rules.silent) return { say: 'go on' };
  return {
    say: 'hold',
    why: {
      code: 'silence',
      problem: `Of the first ${left} only ${known} are known to have arrived or failed after ${rules.waitMinutes} minutes.`,
      remedy: 'See whether receipts reach Windgap at all: the channel’s receipt hop says it. Then resume.',
    },
  };
}
