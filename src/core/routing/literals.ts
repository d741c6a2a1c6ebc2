/**
 * Conditions as logic: a group becomes alternatives, each a set of literals that must all
 * hold. Of two literals it is known whether both can hold and whether one makes the other
 * certain. Only what is certain is said; where it cannot be told, the answer is no.
 */
import { sameLanguage } from '../templates/mapping';
import type { ConversationState } from './arrival';
import { type AttributeTest, type Condition, type Group, isGroup, type OpenCount } from './conditions';
import { type KeywordWay, plainWords, says } from './keyword';
import { attributeFits, numberIn } from './match';

/** A condition about one thing: one channel, one word, one language. */
export type Atom =
  | { on: 'channel'; id: string }
  | { on: 'keyword'; way: KeywordWay; word: string }
  | { on: 'known' }
  | { on: 'open'; key: string; count: OpenCount }
  | { on: 'tag'; tag: string }
  | { on: 'attribute'; name: string; test: AttributeTest; value: string }
  | { on: 'language'; tag: string }
  | { on: 'media' }
  | { on: 'hours'; id: string }
  | { on: 'conversation'; state: ConversationState }
  | { on: 'answers'; template: string }
  | { on: 'button'; label: string };

export interface Predicate {
  atom: Atom;
  /** Of the atom: the same for the same. */
  key: string;
  /** Whether it must hold, or must not. */
  holds: boolean;
  /** The same for the same atom held the same way, and odd where it is denied: the opposite differs in the last bit. */
  nr: number;
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

/** The one literal of an atom, held or denied. */
function literal(atom: Atom, key: string, holds: boolean): Predicate {
  let pair = pairs.get(key);
  if (!pair) {
    const nr = pairs.size * 2;
    pair = [
      { atom, key, holds: true, nr },
      { atom, key, holds: false, nr: nr + 1 },
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
  const atoms = atomsOf(condition);
  const positive = condition.on === 'sender' ? condition.known : isPositive(condition);
  const wanted = positive === holds;
  const literals = atoms.map((atom) => literal(atom, JSON.stringify(atom), wanted));
  return wanted ? literals.map((each) => [each]) : [literals];
}

function isPositive(condition: Condition): boolean {
  if (condition.on === 'tag' || condition.on === 'media') return condition.has;
  return condition.on === 'hours' ? condition.open : true;
}

function atomsOf(condition: Condition): Atom[] {
  switch (condition.on) {
    case 'channel':
      return condition.ids.map((id) => ({ on: 'channel', id }));
    case 'keyword': {
      const words = condition.way === 'pattern' ? condition.words : condition.words.map(plainWords).filter(Boolean);
      return [...new Set(words)].map((word) => ({ on: 'keyword', way: condition.way, word }));
    }
    case 'sender':
      return [{ on: 'known' }];
    case 'open':
      return [{ on: 'open', key: `${condition.app} ${condition.record}`, count: condition.count }];
    case 'tag':
      return [{ on: 'tag', tag: condition.tag }];
    case 'attribute':
      return [{ on: 'attribute', name: condition.name, test: condition.test, value: condition.value ?? '' }];
    case 'language':
      return condition.tags.map((tag) => ({ on: 'language', tag }));
    case 'media':
      return [{ on: 'media' }];
    case 'hours':
      return [{ on: 'hours', id: condition.id }];
    case 'conversation':
      return condition.states.map((state) => ({ on: 'conversation', state }));
    case 'answers':
      return condition.templates.map((template) => ({ on: 'answers', template }));
    case 'button':
      return condition.labels.map((label) => ({ on: 'button', label: plainWords(label) }));
  }
}

/** Exactly one of these states holds of any message. */
const STATES: readonly ConversationState[] = ['new', 'open', 'waiting', 'closed'];
const COUNTS: readonly OpenCount[] = ['none', 'one', 'several', 'unknown'];

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

function mayExhaust({ holds, atom }: Predicate): boolean {
  return !holds && (atom.on === 'conversation' || atom.on === 'open');
}

/** Every state there is, or every count, is denied. */
function exhausted(box: Conjunction): boolean {
  const denied = box.filter(({ holds }) => !holds).map(({ atom }) => atom);
  const states = denied.flatMap((atom) => (atom.on === 'conversation' ? [atom.state] : []));
  if (STATES.every((state) => states.includes(state))) return true;
  const keys = new Set(denied.flatMap((atom) => (atom.on === 'open' ? [atom.key] : [])));
  return [...keys].some((key) =>
    COUNTS.every((count) => denied.some((atom) => atom.on === 'open' && atom.key === key && atom.count === count)),
  );
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

/** Of atoms that are not the same. */
function implies(one: Atom, other: Atom): boolean {
  if (one.on === 'keyword' && other.on === 'keyword') return keywordImplies(one, other);
  if (one.on === 'attribute' && other.on === 'attribute') return attributeImplies(one, other);
  // Which of two tags a language fits turns on the primary subtag alone.
  if (one.on === 'language' && other.on === 'language') return sameLanguage(one.tag, other.tag);
  return false;
}

function keywordImplies(one: Atom & { on: 'keyword' }, other: Atom & { on: 'keyword' }): boolean {
  if (one.way === 'pattern' || other.way === 'pattern') return false;
  const spoken = ` ${one.word} `;
  if (one.way === 'exact') return says(spoken, other.way, other.word);
  if (one.way === 'begins') return other.way !== 'exact' && says(spoken, other.way, other.word);
  return other.way === 'contains' && says(spoken, 'contains', other.word);
}

/** An attribute that is a certain value answers every other test of it. */
function attributeImplies(one: Atom & { on: 'attribute' }, other: Atom & { on: 'attribute' }): boolean {
  if (one.name !== other.name) return false;
  if (one.test === 'is') return one.value.trim() !== '' && attributeFits(one.value, other);
  if (one.test === 'unknown') return attributeFits('', other);
  const [mine, theirs] = [numberIn(one.value), numberIn(other.value)];
  if (one.test === 'over')
    return (
      other.test === 'known' || (other.test === 'over' && mine >= theirs) || (other.test === 'is-not' && mine >= theirs)
    );
  if (one.test === 'under')
    return (
      other.test === 'known' ||
      (other.test === 'under' && mine <= theirs) ||
      (other.test === 'is-not' && mine <= theirs)
    );
  return false;
}

/** Whether the two cannot both hold. */
function excludes(one: Atom, other: Atom): boolean {
  switch (one.on) {
    case 'channel':
      return other.on === 'channel' && one.id !== other.id;
    case 'open':
      return other.on === 'open' && one.key === other.key && one.count !== other.count;
    case 'conversation':
      return other.on === 'conversation' && one.state !== other.state;
    case 'answers':
      return other.on === 'answers' && one.template !== other.template;
    case 'button':
      return other.on === 'button' && one.label !== other.label;
    case 'language':
      return other.on === 'language' && !sameLanguage(one.tag, other.tag);
    case 'keyword':
      return other.on === 'keyword' && keywordExcludes(one, other);
    case 'attribute':
      return other.on === 'attribute' && attributeExcludes(one, other);
    default:
      return false;
  }
}

function keywordExcludes(one: Atom & { on: 'keyword' }, other: Atom & { on: 'keyword' }): boolean {
  if (one.way === 'pattern' || other.way === 'pattern') return false;
  if (one.way === 'exact') return !says(` ${one.word} `, other.way, other.word);
  if (other.way === 'exact') return !says(` ${other.word} `, one.way, one.word);
  if (one.way !== 'begins' || other.way !== 'begins') return false;
  return !` ${one.word} `.startsWith(` ${other.word} `) && !` ${other.word} `.startsWith(` ${one.word} `);
}

function attributeExcludes(one: Atom & { on: 'attribute' }, other: Atom & { on: 'attribute' }): boolean {
  if (one.name !== other.name) return false;
  if (one.test === 'is' && one.value.trim() !== '') return !attributeFits(one.value, other);
  if (other.test === 'is' && other.value.trim() !== '') return !attributeFits(other.value, one);
  if (one.test === 'unknown' || other.test === 'unknown') {
    const test = one.test === 'unknown' ? other : one;
    return !attributeFits('', test);
  }
  const [mine, theirs] = [numberIn(one.value), numberIn(other.value)];
  if (one.test === 'over' && other.test === 'under') return mine >= theirs;
  return one.test === 'under' && other.test === 'over' && theirs >= mine;
}

/** Whether what is denied leaves nothing but the other. */
function completes(denied: Atom, other: Atom): boolean {
  if (denied.on !== 'attribute' || other.on !== 'attribute' || denied.name !== other.name) return false;
  if (denied.test === 'known') return other.test === 'unknown' || other.test === 'is-not';
  if (denied.test === 'unknown') return other.test === 'known';
  if (denied.test === 'is-not')
    return other.test === 'is' && denied.value === other.value && denied.value.trim() !== '';
  return denied.test === 'is' && other.test === 'is-not' && denied.value === other.value;
}
