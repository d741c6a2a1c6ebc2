/**
 * Whether what usually follows has stopped following: receipts after sends. The latest ones are held against the share
 * of those before them, so that a stop is seen within a few and a bad hour of phones is not taken for one.
 */

export type Share =
  /** Too little before or since to tell. */
  | { state: 'cannot tell' }
  | { state: 'usual' }
  | { state: 'fell'; of: number; got: number; usually: number; before: number; chance: number };

/** Fewer before say nothing of what is usual, and of fewer now nothing is said. */
const FEWEST_BEFORE = 50;
const FEWEST_NOW = 10;
/** What follows less often than this is not missed. */
const LEAST_USUAL = 0.3;
/** The latest so many are looked at, each by itself. */
const LATEST = [10, 15, 20, 30, 50, 100, 200] as const;
/** Days differ: what is usual is taken to be a little less than it was. */
const LESS_THAN_IT_WAS = 0.9;
/** Less likely than this by chance, a fall is said; every few minutes somebody looks at many groups. */
const CHANCE = 1e-7;

/** `followed`: of each in the order in which they were sent, whether it was followed in time; oldest first. */
export function judgeShare(followed: readonly boolean[]): Share {
  let told = false;
  let worst: Extract<Share, { state: 'fell' }> | undefined;
  for (const of of LATEST) {
    const before = followed.slice(0, Math.max(0, followed.length - of));
    if (of < FEWEST_NOW || followed.length < of || before.length < FEWEST_BEFORE) continue;
    const usually = count(before) / before.length;
    if (usually < LEAST_USUAL) continue;
    told = true;
    const got = count(followed.slice(-of));
    const chance = atMost(got, of, usually * LESS_THAN_IT_WAS);
    // Half of what is usual or less: a fall that a person would call one.
    if (chance < CHANCE && got / of < usually / 2 && (!worst || chance < worst.chance))
      worst = { state: 'fell', of, got, usually, before: before.length, chance };
  }
  return worst ?? { state: told ? 'usual' : 'cannot tell' };
}

const count = (followed: readonly boolean[]) => followed.reduce((sum, each) => sum + (each ? 1 : 0), 0);

/** How likely at most `k` of `n` are followed, each with chance `p` (binomial distribution). */
function atMost(k: number, n: number, p: number): number {
  let term = (1 - p) ** n;
  let sum = term;
  for (let i = 1; i <= k; i++) {
    term *= ((n - i + 1) / i) * (p / (1 - p));
    sum += term;
  }
  return Math.min(1, sum);
}
