/**
 * Conditions as logic: a group becomes alternatives, each a set of literals that must all
 * hold. Of two literals it is known whether both can hold and whether one makes the other
 * certain. Only what is certain is said; where it cannot be told, the answer is no.
 */
import { type Atom, type Condition, kindOf } from './conditions';
import { type Group, isGroup } from './group';

export interface Predicate {
  atom: Atom;
  /** Of the atom: the same for the same. */
  key: string;
  /** Whether it must hold, or must not. */
  holds: boolean;
  /** The same for the same atom held the same way, and odd where it is denied: the opposite differs in the last bit. */
  nr: number;
  /** Keys of the atoms, its own among them, of which exactly one holds of any message; absent where there are none. */
  oneOf?: readonly string[];
}

type Pair = readonly [held: Predicate, denied: Predicate];

const pairs = new Map<string, Pair>();
const MOST_PAIRS = 10_000;

/**
 * Sets are examined again and again while they are written, so what was worked out is kept.
 * It is forgotten only here, between examinations: the numbers of one must not mean two things.
 */
export function beginAnalysis(): void {
  if (pairs.size < MOST_PAIRS) return;
  pairs.clear();
  contradictions.length = 0;
  certainties.length = 0;
}

function keyOf(atom: Atom): string {
  return JSON.stringify(atom);
}

/** The one literal of an atom, held or denied. */
function literal(atom: Atom, key: string, holds: boolean): Predicate {
  let pair = pairs.get(key);
  if (!pair) {
    const nr = pairs.size * 2;
    const oneOf = kindOf(atom).alternatives?.(atom).map(keyOf);
    pair = [
      { atom, key, holds: true, nr, oneOf },
      { atom, key, holds: false, nr: nr + 1, oneOf },
    ];
    pairs.set(key, pair);
  }
  return pair[holds ? 0 : 1];
}

type Memory = (boolean | undefined)[][];
const contradictions: Memory = [];
const certainties: Memory = [];

/** What two literals say of each other, worked out once. */
function remembered(memory: Memory, work: (one: Predicate, other: Predicate) => boolean) {
  return (one: Predicate, other: Predicate): boolean => {
    if (one.atom.on !== other.atom.on) return false;
    let row = memory[one.nr];
    if (!row) {
      row = [];
      memory[one.nr] = row;
    }
    let answer = row[other.nr];
    if (answer === undefined) {
      answer = work(one, other);
      row[other.nr] = answer;
    }
    return answer;
  };
}

/** All must be so. */
export type Conjunction = readonly Predicate[];

/** Alternatives beyond this are not analysed: a set-up that large is judged by dry run and replay. */
export const MOST_BOXES = 64;

/** Alternatives of a group, impossible ones left out; undefined where there are too many. */
export function boxesOf(group: Group): Conjunction[] | undefined {
  const boxes = expand(group, true);
  return boxes?.filter((box) => possible(box));
}

function expand(part: Condition | Group, holds: boolean): Conjunction[] | undefined {
  if (!isGroup(part)) return alternatives(part, holds);
  const inner = part.match === 'none' ? !holds : holds;
  const parts = part.of.map((each) => expand(each, inner));
  if (parts.some((each) => each === undefined)) return undefined;
  const known = parts as Conjunction[][];
  // "none" is the negation of "any".
  const together = part.match === 'all' ? holds : !inner;
  if (!together) {
    const all = known.flat();
    return all.length > MOST_BOXES ? undefined : all;
  }
  let product: Conjunction[] = [[]];
  for (const each of known) {
    product = product.flatMap((box) => each.map((more) => [...box, ...more]));
    if (product.length > MOST_BOXES * 4) return undefined;
    product = product.filter((box) => possible(box));
  }
  return product.length > MOST_BOXES ? undefined : product;
}

/** The literals of a condition that names one thing. */
export function literalsOf(condition: Condition): Conjunction {
  return alternatives(condition, true)[0] ?? [];
}

/** A condition that names several is one of them; denied, it is none of them. */
function alternatives(condition: Condition, holds: boolean): Conjunction[] {
  const kind = kindOf(condition);
  const wanted = (kind.positive?.(condition) ?? true) === holds;
  const literals = kind.atoms(condition).map((atom) => literal(atom, keyOf(atom), wanted));
  return wanted ? literals.map((each) => [each]) : [literals];
}

/** Whether nothing in the box is known to rule it out. */
export function possible(box: Conjunction): boolean {
  for (let first = 0; first < box.length; first += 1)
    for (let second = first + 1; second < box.length; second += 1)
      if (contradict(box[first] as Predicate, box[second] as Predicate)) return false;
  return !box.some(mayExhaust) || !exhausted(box);
}

/** Whether something may fit both boxes, each of them possible by itself. */
export function together(one: Conjunction, other: Conjunction): boolean {
  for (const mine of one) for (const theirs of other) if (contradict(mine, theirs)) return false;
  return !(one.some(mayExhaust) || other.some(mayExhaust)) || !exhausted([...one, ...other]);
}

function mayExhaust({ holds, oneOf }: Predicate): boolean {
  return !holds && oneOf !== undefined;
}

/** Everything of which one always holds is denied: every state there is, or every count. */
function exhausted(box: Conjunction): boolean {
  const denied = new Set(box.filter(({ holds }) => !holds).map(({ key }) => key));
  return box.some((each) => mayExhaust(each) && each.oneOf?.every((key) => denied.has(key)));
}

export function negated({ atom, key, holds }: Predicate): Predicate {
  return literal(atom, key, !holds);
}

/** Whether the two certainly cannot both be. */
const contradict = remembered(contradictions, (one, other) => {
  if (one.key === other.key) return one.holds !== other.holds;
  if (one.holds && other.holds) return excludes(one.atom, other.atom);
  if (one.holds) return implies(one.atom, other.atom);
  return other.holds ? implies(other.atom, one.atom) : completes(one.atom, other.atom);
});

/** Whether `then` is certain wherever `given` holds. */
export const certain = remembered(certainties, (given, then) => {
  if (given.key === then.key) return given.holds === then.holds;
  if (given.holds && then.holds) return implies(given.atom, then.atom);
  if (given.holds && !then.holds) return excludes(given.atom, then.atom);
  // What is denied tells something only by contraposition: not a gives not b where b gives a.
  if (!given.holds && !then.holds) return implies(then.atom, given.atom);
  return completes(given.atom, then.atom);
});

/** Of atoms that are of one kind and not the same. */
function implies(one: Atom, other: Atom): boolean {
  return kindOf(one).implies?.(one, other) ?? false;
}

/** Whether the two cannot both hold. */
function excludes(one: Atom, other: Atom): boolean {
  return kindOf(one).excludes?.(one, other) ?? false;
}

/** Whether what is denied leaves nothing but the other. */
function completes(denied: Atom, other: Atom): boolean {
  return kindOf(denied).completes?.(denied, other) ?? false;
}
