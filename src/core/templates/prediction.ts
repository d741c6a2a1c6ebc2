/**
 * How likely a rejection is, from what this installation has seen: for each rule, how
 * many submissions it had something to say of and how many of those were rejected.
 */
import type { Severity } from '../finding';

export interface RuleRecord {
  /** Submissions with a finding of this rule. */
  seen: number;
  rejected: number;
}

export interface History {
  rules: Readonly<Record<string, RuleRecord>>;
  /** Submissions the examination had nothing to say of. */
  clean: RuleRecord;
}

export const NO_HISTORY: History = { rules: {}, clean: { seen: 0, rejected: 0 } };

/** What is assumed of a rule nobody has met yet, as if it had been seen twice. */
const ASSUMED: Record<Severity, number> = { error: 0.9, attention: 0.3, notice: 0.05 };
const ASSUMED_CLEAN = 0.05;
const ASSUMED_WEIGHT = 2;

export interface Because {
  code: string;
  key: string;
  likelihood: number;
  seen: number;
  rejected: number;
}

export interface Prediction {
  /** 0 to 1. */
  likelihood: number;
  /** What speaks for it, the weightiest first. */
  because: Because[];
}

export interface Judged {
  code: string;
  severity: Severity;
  grade?: string;
}

/** What is learned of: a rule, or one grade of it. */
export const ruleKey = ({ code, grade }: Judged) => (grade ? `${code}, ${grade}` : code);

/** Rules speak independently: it passes only if each of them lets it pass. */
export function predictRejection(findings: readonly Judged[], history: History): Prediction {
  const because = rulesIn(findings)
    .map((judged): Because => {
      const { code, severity } = judged;
      const key = ruleKey(judged);
      const { seen, rejected } = history.rules[key] ?? { seen: 0, rejected: 0 };
      return { code, key, seen, rejected, likelihood: smoothed(rejected, seen, ASSUMED[severity]) };
    })
    .sort((a, b) => b.likelihood - a.likelihood);
  const clean = smoothed(history.clean.rejected, history.clean.seen, ASSUMED_CLEAN);
  return { likelihood: 1 - because.reduce((passes, { likelihood }) => passes * (1 - likelihood), 1 - clean), because };
}

function smoothed(rejected: number, seen: number, assumed: number): number {
  return (rejected + assumed * ASSUMED_WEIGHT) / (seen + ASSUMED_WEIGHT);
}

/** Each rule once, by its gravest finding. */
function rulesIn(findings: readonly Judged[]): Judged[] {
  const order: Severity[] = ['error', 'attention', 'notice'];
  const rules = new Map<string, Judged>();
  for (const finding of findings) {
    const before = rules.get(ruleKey(finding));
    if (!before || order.indexOf(finding.severity) < order.indexOf(before.severity))
      rules.set(ruleKey(finding), finding);
  }
  return [...rules.values()];
}

export interface Decided {
  findings: readonly Judged[];
  rejected: boolean;
}

/**
 * Adds what became of a submission. Where several rules had something to say, a rejection
 * is laid to the one most often rejected before; the others may be innocent.
 */
export function learn(history: History, { findings, rejected }: Decided): History {
  const rules = rulesIn(findings);
  if (rules.length === 0) return { ...history, clean: counted(history.clean, rejected) };
  const [blamed] = predictRejection(findings, history).because;
  const next = { ...history.rules };
  for (const rule of rules) {
    const key = ruleKey(rule);
    if (rejected && key !== blamed?.key) continue;
    next[key] = counted(next[key] ?? { seen: 0, rejected: 0 }, rejected);
  }
  return { ...history, rules: next };
}

function counted({ seen, rejected }: RuleRecord, now: boolean): RuleRecord {
  return { seen: seen + 1, rejected: rejected + (now ? 1 : 0) };
}

export function learnAll(decided: Iterable<Decided>): History {
  let history = NO_HISTORY;
  for (const each of decided) history = learn(history, each);
  return history;
}

/** From here on a rejection is foretold. */
export const FORETOLD = 0.5;

export interface HitRate {
  /** Rejections, and how many were foretold. */
  rejections: number;
  foretold: number;
  /** Approvals, and how many were foretold to be rejected. */
  approvals: number;
  falseAlarms: number;
}

/** How often the predictions made at submission came true. */
export function hitRate(outcomes: Iterable<{ likelihood: number; rejected: boolean }>): HitRate {
  const rate: HitRate = { rejections: 0, foretold: 0, approvals: 0, falseAlarms: 0 };
  for (const { likelihood, rejected } of outcomes) {
    const alarm = likelihood >= FORETOLD;
    if (rejected) {
      rate.rejections += 1;
      if (alarm) rate.foretold += 1;
    } else {
      rate.approvals += 1;
      if (alarm) rate.falseAlarms += 1;
    }
  }
  return rate;
}
