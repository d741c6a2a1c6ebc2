/**
 * What the failing messages have in common that the good ones have not: the attribute, or the moment, that splits
 * the two, found by counting and held against chance. Says that nothing splits them where nothing does.
 */

export interface Compared {
  /** Epoch milliseconds. */
  at: number;
  failed: boolean;
  /** What it is like, by attribute; what is absent does not apply to it. */
  is: Readonly<Record<string, string>>;
}

export interface Split {
  /** The attribute that splits them, or `since` where it is a moment. */
  attribute: string;
  /** What the failing ones have of it; for `since`, the moment as epoch milliseconds. */
  value: string;
  /** Of those with the value: how many failed, of how many. */
  failed: number;
  of: number;
  /** Of all others: the same. */
  othersFailed: number;
  others: number;
  /** How likely chance alone makes so clear a split somewhere, at most 1. */
  chance: number;
  /** Since when those with the value fail, where they did not before. */
  since?: number;
}

export type Contrast =
  | { found: 'split'; splits: Split[] }
  | { found: 'nothing' }
  /** Too little on either side to tell anything. */
  | { found: 'too few'; failed: number; good: number };

/** Fewer than these failed or arrived tell nothing that chance does not. */
const FEWEST_FAILED = 3;
const FEWEST_GOOD = 3;
/** A split at least this unlikely to be chance, over everything looked at. */
const CHANCE = 0.01;
/** Values of an attribute beyond those that most failed with are not looked at. */
const MOST_VALUES = 60;
/** A split is worth saying if at least this share of those with the value fail, and they are this much of all that fail. */
const MOSTLY = 0.6;
const COVERS = 0.5;
/** Before the moment it began, at most this share failed. */
const SELDOM = 0.1;
/** Further splits are said only where they are nearly as clear. */
const NEARLY = 0.1;
const MOST_SPLITS = 3;

/** Splits by every attribute, by time, and by an attribute since a moment, the clearest first. Work grows with messages × attributes. */
export function contrast(messages: readonly Compared[]): Contrast {
  const failed = messages.filter((each) => each.failed).length;
  const good = messages.length - failed;
  if (failed < FEWEST_FAILED || good < FEWEST_GOOD) return { found: 'too few', failed, good };
  const sorted = [...messages].sort((a, b) => a.at - b.at);
  const attributes = groups(sorted);
  const rest = (bad: number, of: number) => ({ othersFailed: failed - bad, others: messages.length - of });
  const candidates: Omit<Split, 'chance'>[] = [];
  const always = splitInTime(sorted);
  if (always) {
    const { since, failed: bad, of } = always;
    candidates.push({ attribute: 'since', value: String(since), since, failed: bad, of, ...rest(bad, of) });
  }
  let looked = 0;
  for (const [attribute, values] of attributes)
    for (const [value, same] of values) {
      looked += 1;
      const bad = same.filter((each) => each.failed).length;
      if (bad < FEWEST_FAILED || same.length === messages.length) continue;
      const moment = splitInTime(same);
      const began =
        moment &&
        moment.before >= FEWEST_GOOD &&
        moment.failedBefore <= moment.before * SELDOM &&
        moment.failed >= moment.of * (1 - SELDOM)
          ? moment
          : { failed: bad, of: same.length };
      const { failed: those, of } = began;
      candidates.push({
        attribute,
        value,
        failed: those,
        of,
        ...rest(those, of),
        ...('since' in began ? { since: began.since } : {}),
      });
    }
  // Every value was looked at, and every moment, of all and of those with each value.
  const tries = looked + messages.length * (1 + attributes.size);
  // Of two that are as clear the one named first in `is` is said first: the wider before the narrower.
  const splits = candidates
    .filter(({ failed: bad, of, othersFailed, others }) => {
      const share = bad / of;
      return share >= MOSTLY && bad / failed >= COVERS && share > 2 * (othersFailed / Math.max(1, others));
    })
    .map((each): Split => ({ ...each, chance: Math.min(1, tries * tail(each)) }))
    .filter(({ chance }) => chance < CHANCE)
    .sort((x, y) => clarity(y) - clarity(x));
  return splits.length === 0 ? { found: 'nothing' } : { found: 'split', splits: withoutEchoes(splits) };
}

/** One line for each attribute, and only those nearly as clear as the first. */
function withoutEchoes(splits: readonly Split[]): Split[] {
  const [first] = splits as [Split];
  const near = splits.filter((each) => clarity(each) >= clarity(first) - NEARLY);
  return near
    .filter((each, place) => near.findIndex(({ attribute }) => attribute === each.attribute) === place)
    .slice(0, MOST_SPLITS);
}

/**
 * The messages with each value of each attribute that enough failed with, in the order given. Of the others none could
 * be told from chance, so they are not looked at and do not count as looked at (Tarone 1990).
 */
function groups(messages: readonly Compared[]): Map<string, [string, Compared[]][]> {
  const failed = new Map<string, Map<string, number>>();
  for (const { failed: bad, is } of messages)
    if (bad)
      for (const attribute in is) {
        const counts = failed.get(attribute) ?? new Map<string, number>();
        if (counts.size === 0) failed.set(attribute, counts);
        const value = is[attribute] as string;
        counts.set(value, (counts.get(value) ?? 0) + 1);
      }
  const kept = new Map<string, Map<string, Compared[]>>();
  for (const [attribute, counts] of failed) {
    const common = [...counts].filter(([, count]) => count >= FEWEST_FAILED).sort(([, x], [, y]) => y - x);
    kept.set(attribute, new Map(common.slice(0, MOST_VALUES).map(([value]) => [value, []])));
  }
  const attributes = [...kept];
  for (const each of messages)
    for (const [attribute, values] of attributes) values.get(each.is[attribute] as string)?.push(each);
  return new Map(attributes.map(([attribute, values]) => [attribute, [...values]]));
}

/** How well the value tells failing from good, between -1 and 1 (Youden's J). */
function clarity({ failed, of, othersFailed, others }: Omit<Split, 'chance'>): number {
  const allFailed = failed + othersFailed;
  const allGood = of - failed + (others - othersFailed);
  return failed / allFailed - (of - failed) / Math.max(1, allGood);
}

interface Moment {
  /** The first that came after it, as epoch milliseconds. */
  since: number;
  /** After it: how many failed, of how many. */
  failed: number;
  of: number;
  /** Before it: the same. */
  failedBefore: number;
  before: number;
}

/** The moment after which most fail and before which few do, of messages sorted by time; undefined where there is none. */
function splitInTime(sorted: readonly Compared[]): Moment | undefined {
  const failed = sorted.reduce((sum, each) => sum + (each.failed ? 1 : 0), 0);
  const good = sorted.length - failed;
  if (failed === 0 || good === 0) return undefined;
  let badBefore = 0;
  let best: { score: number; index: number; badBefore: number } | undefined;
  for (let index = 0; index < sorted.length; index++) {
    const score = (failed - badBefore) / failed - (good - (index - badBefore)) / good;
    // Only where the instant changes can anything have happened.
    if (index > 0 && sorted[index]?.at !== sorted[index - 1]?.at && (!best || score > best.score))
      best = { score, index, badBefore };
    if (sorted[index]?.failed) badBefore += 1;
  }
  if (!best) return undefined;
  return {
    since: (sorted[best.index] as Compared).at,
    failed: failed - best.badBefore,
    of: sorted.length - best.index,
    failedBefore: best.badBefore,
    before: best.index,
  };
}

/** How likely at least so many of those with the value fail, were they drawn at random (hypergeometric, Fisher's exact test). */
function tail({ failed, of, othersFailed, others }: Omit<Split, 'chance'>): number {
  const all = of + others;
  const bad = failed + othersFailed;
  let sum = 0;
  for (let k = failed; k <= Math.min(of, bad); k++) {
    const term = Math.exp(logChoose(bad, k) + logChoose(all - bad, of - k) - logChoose(all, of));
    sum += term;
    if (term < sum * 1e-12) break;
  }
  return Math.min(1, sum);
}

const LOG_FACTORIALS = [0, 0];

function logFactorial(n: number): number {
  for (let next = LOG_FACTORIALS.length; next <= n; next++)
    LOG_FACTORIALS.push((LOG_FACTORIALS[next - 1] as number) + Math.log(next));
  return LOG_FACTORIALS[n] as number;
}

function logChoose(n: number, k: number): number {
  return k < 0 || k > n ? Number.NEGATIVE_INFINITY : logFactorial(n) - logFactorial(k) - logFactorial(n - k);
}
