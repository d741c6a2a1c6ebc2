/**
 * From a symptom to where it is, and to its cause where evidence particular to one exists. Every possible cause, and at
 * each stage the one nobody listed, begins with how often it is behind the symptom; what was observed multiplies it by
 * how much more often that is seen when the cause is to blame than when it is not (Bayes, observations taken as
 * independent). What evidence names is determined, what is only left over is at most likely, and what is neither is
 * said to be between two places.
 */
import type { RemedyAction } from '../connect/examine';
import { OBSERVATIONS, type ObservationId, observation } from './observations';
import { LEAST, POSSIBILITIES, type Possibility, STAGES, type Stage, saysOnlyWhere } from './possibilities';
import type { Symptom } from './symptoms';
import { isUnlisted, unlistedFor } from './unlisted';
import { isInside, type Segment } from './way';

/** A cause that evidence itself names. */
export interface Named {
  code: string;
  by: 'set-up' | 'told';
  /** What it says, as a sentence. */
  said: string;
  remedy?: string;
  subject?: string;
  href?: string;
  at?: number;
  /** The examination shows what traffic met, so it is no second witness and its silence no objection. */
  stands?: true;
  /** It is wrong with Windgap itself and was looked at just now: what arrived before says nothing against it. */
  own?: true;
  /** It concerns one person, and so explains nothing of anybody else. */
  ofOne?: true;
  /** Other messages met it, and not the one that is meant. */
  ofOthers?: true;
  /** Why it may be another cause that says the same, as a sentence; what is doubted is at most likely. */
  doubt?: string;
  /** How many messages met it. */
  messages?: number;
  /** What a button can do about it. */
  action?: { kind: RemedyAction; id: string };
}

export interface Observed {
  id: ObservationId;
  value: boolean;
  /** How it is known: evidence Windgap has, an answer, or a test. */
  from: 'evidence' | 'answer' | 'test';
  said?: string;
  href?: string;
}

/** A path that was broken and is well. */
export interface Healed {
  /** When the first failed and the last did, epoch milliseconds. */
  from: number;
  until: number;
  /** When something of the kind came through again. */
  wellSince: number;
  /** Why, as the failed ones said. */
  codes: string[];
  /** Ids of what failed then and was not made good since. */
  lost: string[];
  /** What was lost: messages, requests of the provider, or events for an app. */
  kind: 'messages' | 'requests' | 'events';
}

export interface Evidence {
  named: readonly Named[];
  observed: readonly Observed[];
  /** Whether anything went this way lately, so that what it would have told counts where it is missing. */
  traffic: boolean;
  /** Whether a handset of the bench or a verified phone is at hand for tests. */
  canTest: boolean;
  /** Questions answered with “I don’t know”. */
  unknown?: readonly ObservationId[];
  /** Where what is complained of is, as far as its traces say. */
  segment?: Segment;
  /** Several messages may be meant, and nobody has said which. */
  unpinned?: boolean;
  healed?: Healed;
}

export interface Ranked {
  code: string;
  stage: Possibility['stage'];
  between?: Possibility['between'];
  /** Of all that is possible, between 0 and 1. */
  share: number;
  /** Why, strongest first. */
  reasons: { said: string; factor: number; href?: string }[];
  named?: Named;
  /** Something is known that is so of this cause and of no other. */
  particular: boolean;
}

export type Next =
  | { kind: 'ask' | 'test'; id: ObservationId; gain: number }
  /** Which message is meant. */
  | { kind: 'which' };

export type Verdict =
  /** Evidence particular to the cause names it. */
  | 'determined'
  /** Left over by elimination; nothing names it. */
  | 'likely'
  /** Where is known, why is not. */
  | 'between'
  /** Nothing is wrong on the path now. */
  | 'well'
  /** It was broken and is well. */
  | 'healed'
  /** There is more to ask or to test. */
  | 'open'
  /** Not even where. */
  | 'undetermined';

export interface Diagnosis {
  verdict: Verdict;
  cause?: Ranked;
  /** Other causes that evidence names as well. */
  also: Ranked[];
  /** Still possible, likeliest first. */
  remaining: Ranked[];
  ruledOut: Ranked[];
  next?: Next;
  /** How many questions were answered, and tests made. */
  asked: number;
  tested: number;
}

/** More questions than this are no help any more. */
export const MOST_QUESTIONS = 4;
const SURE = 0.8;
/** What is only left over is called likely from this share on. */
const LIKELY = 0.5;
const POSSIBLE = 0.04;
const SHOWN = 5;
const MUCH_LESS = 4;
/** Gains below this, in bits, are not worth a person’s time. */
const WORTH_ASKING = 0.08;
const WORTH_TESTING = 0.01;

/** Complaints about what came of one text, which another text shows nothing of. */
const OF_ONE_TEXT: ReadonlySet<Symptom> = new Set(['arrives-twice', 'arrives-wrong']);

export function diagnose(symptom: Symptom, evidence: Evidence): Diagnosis {
  const ranked = rank(symptom, evidence);
  const { observed, segment } = evidence;
  const asked = observed.filter(({ from }) => from === 'answer').length + (evidence.unknown?.length ?? 0);
  const tested = observed.filter(({ from }) => from === 'test').length;
  const remaining = stillPossible(ranked);
  const ruledOut = ranked.filter((each) => !remaining.includes(each) && !isUnlisted(each.code));
  const base = { asked, tested, also: [] as Ranked[], ruledOut };
  const named = ranked.filter(({ named: by, particular, share }) => by && particular && share >= POSSIBLE);
  const namedShare = named.reduce((sum, { share }) => sum + share, 0);
  // What is known of one text, or tested with another, explains nothing of a third.
  if (OF_ONE_TEXT.has(symptom) && evidence.unpinned)
    return { ...base, verdict: 'open', remaining, next: { kind: 'which' } };
  const shown = ranked.find(({ particular, named: by }) => particular && !by);
  const cause =
    named.length > 0 && namedShare >= SURE
      ? firstOf(symptom, named)
      : shown && shown.share >= LIKELY && agrees(shown, segment)
        ? shown
        : undefined;
  // It says where and not why, and the message that is looked at passed there: one that does not will show more.
  const further = cause && saysOnlyWhere(cause.code) && segment?.whole ? untried(symptom, evidence) : undefined;
  if (further) return { ...base, verdict: 'open', remaining, next: { kind: 'test', id: further, gain: 0 } };
  if (cause) {
    const also = named.filter((each) => each !== cause);
    // It says where and not why; what else is named may say more.
    const verdict = saysOnlyWhere(cause.code) ? 'between' : cause.named?.doubt ? 'likely' : 'determined';
    return { ...base, verdict, cause, also, remaining: [cause] };
  }
  const next = nextStep(symptom, evidence, asked < MOST_QUESTIONS);
  if (next) return { ...base, verdict: 'open', remaining, next };
  const [suspect] = named;
  if (suspect && suspect.share >= LIKELY)
    return { ...base, verdict: 'likely', cause: suspect, also: named.filter((each) => each !== suspect), remaining };
  const also = named;
  // That the latest is well says nothing of another one.
  if (segment?.whole && evidence.unpinned) return { ...base, verdict: 'open', remaining, next: { kind: 'which' } };
  if (segment?.whole && !segment.contradiction)
    return { ...base, verdict: evidence.healed ? 'healed' : 'well', also, remaining };
  const first = ranked[0];
  if (first && first.share >= LIKELY && !isUnlisted(first.code) && agrees(first, segment))
    return { ...base, verdict: 'likely', cause: first, also: also.filter((each) => each !== first), remaining };
  const verdict = segment && (segment.from || segment.sure) ? 'between' : 'undetermined';
  return { ...base, verdict, also, remaining };
}

/** A test of the symptom that can be made and was not. */
function untried(symptom: Symptom, { canTest, observed, unknown = [] }: Evidence): ObservationId | undefined {
  if (!canTest) return undefined;
  const known = new Set<ObservationId>([...observed.map(({ id }) => id), ...unknown]);
  return (Object.keys(OBSERVATIONS) as ObservationId[]).find(
    (id) => observation(id).test?.of.includes(symptom) && !known.has(id),
  );
}

/** Whether a cause lies where the traces of the message say that it is. */
function agrees({ between }: Ranked, segment: Segment | undefined): boolean {
  return !between || !segment || !knowsWhere(segment) || isInside(segment, between);
}

/** The likely ones; where none is, the few that come first and are much alike. */
function stillPossible(ranked: readonly Ranked[]): Ranked[] {
  const first = ranked[0]?.share ?? 0;
  return ranked.filter(
    ({ share }, place) => share >= POSSIBLE || (first < SURE && place < SHOWN && share >= first / MUCH_LESS),
  );
}

/**
 * Several are named: what a message met comes before what was found beforehand, what concerns many before what
 * concerns one, then what was met last, then what comes first on the way.
 */
function firstOf(symptom: Symptom, named: readonly Ranked[]): Ranked {
  const met = ({ named: by }: Ranked) => (by?.by === 'told' ? 0 : 1);
  const ofOne = ({ named: by }: Ranked) => (by?.ofOne && symptom !== 'only-some' ? 1 : 0);
  const only = ({ code }: Ranked) => (saysOnlyWhere(code) ? 1 : 0);
  const at = ({ named: by }: Ranked) => (by?.by === 'told' ? (by.at ?? 0) : 0);
  const place = ({ stage }: Ranked) => STAGES.indexOf(stage);
  return [...named].sort(
    (a, b) =>
      met(a) - met(b) ||
      ofOne(a) - ofOne(b) ||
      only(a) - only(b) ||
      at(b) - at(a) ||
      place(a) - place(b) ||
      b.share - a.share,
  )[0] as Ranked;
}

/** All possible causes, likeliest first, with what nobody listed; their shares add up to 1. */
function rank(symptom: Symptom, evidence: Evidence): Ranked[] {
  const weighed = [...POSSIBILITIES, ...unlistedFor(symptom)].map((possibility) =>
    // What is wrong as well, and never behind this symptom, is named by its own evidence and explains nothing of it.
    possibility.behind[symptom] === undefined
      ? weigh(possibility, LEAST, { ...evidence, named: [] })
      : weigh(possibility, possibility.behind[symptom], evidence),
  );
  const best = new Map<string, (typeof weighed)[number]>();
  for (const each of weighed) {
    const known = best.get(each.code);
    if (!known || known.weight < each.weight) best.set(each.code, each);
  }
  const total = [...best.values()].reduce((sum, { weight }) => sum + weight, 0);
  return [...best.values()]
    .map(({ weight, ...rest }) => ({ ...rest, share: weight / total }))
    .sort((a, b) => b.share - a.share || a.code.localeCompare(b.code));
}

/** How often each possible cause is behind a symptom by itself, and how what is known multiplies that: what shares are made of. */
export function likelihoods(
  symptom: Symptom,
  evidence: Evidence,
): { code: string; stage: Stage; line: string; between?: Possibility['between']; prior: number; factor: number }[] {
  return [...POSSIBILITIES, ...unlistedFor(symptom)].flatMap((possibility) => {
    const { code, stage, line, between, behind } = possibility;
    const prior = behind[symptom];
    if (prior === undefined) return [];
    const { weight } = weigh(possibility, 1, evidence);
    return [{ code, stage, line, prior, factor: weight, ...(between ? { between } : {}) }];
  });
}

/** A cause that lies where the message is not is hardly ever the one. */
const ELSEWHERE = 0.05;

/** A whole way shows where nothing is wrong, and not where what somebody misses is. */
const knowsWhere = ({ sure, contradiction }: Segment) => sure && !contradiction;

/** Whether the message that is meant came past where the cause lies: what others met there did not stop it. */
function isPast(segment: Segment | undefined, between: Possibility['between']): boolean {
  if (!segment?.from || segment.whole || segment.contradiction || !between) return false;
  const { to: _, ...open } = segment;
  return !isInside(open, between);
}

/** In this share of the cases the set-up, read from the other side, shows the cause as well. */
const READABLE = 0.9;
const NOT_IN_THE_SET_UP = 'What can be read of the set-up there shows nothing of the kind.';

/** What is so this many times as often when the cause is to blame is particular to it. */
const TELLING = 10;

function weigh(
  possibility: Possibility,
  prior: number,
  evidence: Evidence,
): Omit<Ranked, 'share'> & { weight: number } {
  const reasons: Ranked['reasons'] = [];
  let weight = prior;
  const apply = (factor: number, said: string, href?: string) => {
    weight *= factor;
    if (Math.abs(Math.log(factor)) > 0.3) reasons.push({ said, factor, ...(href ? { href } : {}) });
  };
  const { code, stage, between, shows } = possibility;
  const { segment } = evidence;
  const told = evidence.named.find(
    (each) => each.code === code && each.by === 'told' && !(each.ofOthers && isPast(segment, between)),
  );
  const setUp = evidence.named.find(({ code, by }) => code === possibility.code && by === 'set-up');
  named(possibility.told, told, evidence.traffic, 'No message met this lately');
  named(possibility.setUp, setUp, !told?.stands, 'The set-up was examined and shows nothing of the kind');
  for (const { id, value, from, said, href } of evidence.observed) {
    const so = possibility.signs[id];
    if (so === undefined || (setUp?.own && from === 'evidence')) continue;
    const { usually, yes, no } = observation(id);
    apply(value ? so / usually : (1 - so) / (1 - usually), said ?? (value ? yes : no), href);
  }
  // What a message met is said; the button comes from wherever it is known.
  const by = told ? { ...(setUp?.action ? { action: setUp.action } : {}), ...told } : setUp;
  if (!by && between && segment && knowsWhere(segment) && !isInside(segment, between))
    apply(ELSEWHERE, 'What is complained of is not there on its way');
  const names = told ? possibility.told : possibility.setUp;
  // They say so, and what they let us read of the same says otherwise.
  const against = told && !setUp && !told.stands && possibility.setUp[0] >= READABLE;
  const doubted = by && !by.doubt && against ? { ...by, doubt: NOT_IN_THE_SET_UP } : by;
  const particular = by
    ? names[0] >= names[1] * TELLING
    : evidence.observed.some(({ id, value }) => shows[id] === value);
  reasons.sort((a, b) => Math.abs(Math.log(b.factor)) - Math.abs(Math.log(a.factor)));
  return {
    code,
    stage,
    weight,
    reasons,
    particular,
    ...(between ? { between } : {}),
    ...(doubted ? { named: doubted } : {}),
  };

  function named(
    [so, otherwise]: readonly [number, number],
    found: Named | undefined,
    looked: boolean,
    missing: string,
  ) {
    if (so === 0 || !(found || looked)) return;
    if (found) apply(so / otherwise, found.said, found.href);
    else apply((1 - so) / (1 - otherwise), missing);
  }
}

/**
 * The question or test that narrows most: the expected loss of entropy over what is possible.
 * What Windgap can find out by itself, and freshly, comes before any question.
 */
type Step = Extract<Next, { gain: number }>;

function nextStep(symptom: Symptom, evidence: Evidence, mayAsk: boolean): Step | undefined {
  const known = new Set<ObservationId>([...evidence.observed.map(({ id }) => id), ...(evidence.unknown ?? [])]);
  const now = entropy(rank(symptom, evidence));
  const steps = (Object.keys(OBSERVATIONS) as ObservationId[]).flatMap((id): Step[] => {
    const { ask, test } = observation(id);
    const kind =
      test?.of.includes(symptom) && evidence.canTest ? 'test' : ask?.of.includes(symptom) ? 'ask' : undefined;
    if (!kind || known.has(id) || (kind === 'ask' && !mayAsk)) return [];
    const gain = now - expectedEntropy(symptom, evidence, id);
    return gain > (kind === 'test' ? WORTH_TESTING : WORTH_ASKING) ? [{ kind, id, gain }] : [];
  });
  return steps.sort((a, b) => Number(b.kind === 'test') - Number(a.kind === 'test') || b.gain - a.gain)[0];
}

function expectedEntropy(symptom: Symptom, evidence: Evidence, id: ObservationId): number {
  const now = rank(symptom, evidence);
  const signs = new Map(
    [...POSSIBILITIES.filter(({ behind }) => behind[symptom]), ...unlistedFor(symptom)].map(({ code, signs }) => [
      code,
      signs[id],
    ]),
  );
  const { usually } = observation(id);
  const covered = now.reduce((sum, { share }) => sum + share, 0);
  const yes =
    now.reduce((sum, { code, share }) => sum + share * (signs.get(code) ?? usually), 0) + (1 - covered) * usually;
  const after = (value: boolean) =>
    entropy(rank(symptom, { ...evidence, observed: [...evidence.observed, { id, value, from: 'evidence' }] }));
  return yes * after(true) + (1 - yes) * after(false);
}

/** In bits, of the shares and of what is left for something else. */
function entropy(ranked: readonly Ranked[]): number {
  const shares = ranked.map(({ share }) => share);
  const rest = 1 - shares.reduce((sum, share) => sum + share, 0);
  return [...shares, rest].reduce((sum, share) => (share > 1e-12 ? sum - share * Math.log2(share) : sum), 0);
}

/** What would tell the remaining causes apart, for whoever is left with them. */
export function whatWouldTell(symptom: Symptom, evidence: Evidence): ObservationId[] {
  const known = new Set(evidence.observed.map(({ id }) => id));
  const now = entropy(rank(symptom, evidence));
  return (Object.keys(OBSERVATIONS) as ObservationId[])
    .filter((id) => !known.has(id))
    .map((id) => ({ id, gain: now - expectedEntropy(symptom, evidence, id) }))
    .filter(({ gain }) => gain > WORTH_ASKING)
    .sort((a, b) => b.gain - a.gain)
    .slice(0, 3)
    .map(({ id }) => id);
}
