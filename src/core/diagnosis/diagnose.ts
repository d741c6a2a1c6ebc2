/**
 * From a symptom to its cause. Every possible cause begins with how often it is behind the
 * symptom; what was observed multiplies it by how much more often that is seen when the cause
 * is to blame than when it is not (Bayes, observations taken as independent). What remains is
 * answered, asked for, tested, or honestly left open.
 */
import type { RemedyAction } from '../connect/examine';
import { OBSERVATIONS, type ObservationId, observation } from './observations';
import { POSSIBILITIES, type Possibility, STAGES } from './possibilities';
import type { Symptom } from './symptoms';

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

export interface Evidence {
  named: readonly Named[];
  observed: readonly Observed[];
  /** Whether anything went this way lately, so that what it would have told counts where it is missing. */
  traffic: boolean;
  /** Whether a handset of the bench or a verified phone is at hand for tests. */
  canTest: boolean;
  /** Questions answered with “I don’t know”. */
  unknown?: readonly ObservationId[];
}

export interface Ranked {
  code: string;
  stage: Possibility['stage'];
  /** Of all that is possible, between 0 and 1. */
  share: number;
  /** Why, strongest first. */
  reasons: { said: string; factor: number; href?: string }[];
  named?: Named;
}

export type Next = { kind: 'ask' | 'test'; id: ObservationId; gain: number };

export interface Diagnosis {
  verdict: 'determined' | 'open' | 'undetermined';
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
const POSSIBLE = 0.04;
const SHOWN = 5;
const MUCH_LESS = 4;
/** Gains below this, in bits, are not worth a person’s time. */
const WORTH_ASKING = 0.08;
const WORTH_TESTING = 0.01;
/** A cause nobody thought of, against one of the usual ones. */
const SOMETHING_ELSE = 0.2;

export function diagnose(symptom: Symptom, evidence: Evidence): Diagnosis {
  const ranked = rank(symptom, evidence);
  const observed = evidence.observed;
  const asked = observed.filter(({ from }) => from === 'answer').length + (evidence.unknown?.length ?? 0);
  const tested = observed.filter(({ from }) => from === 'test').length;
  const remaining = stillPossible(ranked);
  const base = { asked, tested, also: [] as Ranked[], ruledOut: ranked.filter((each) => !remaining.includes(each)) };
  const named = ranked.filter(({ named: by, share }) => by && share >= POSSIBLE);
  const namedShare = named.reduce((sum, { share }) => sum + share, 0);
  const first = ranked[0];
  const refutable = first && evidence.canTest ? untested(symptom, first.code, evidence) : undefined;
  // What nothing names is concluded only after the test that could refute it.
  if (first && !first.named && first.share >= SURE && refutable)
    return {
      ...base,
      verdict: 'open',
      remaining,
      next: { kind: 'test', id: refutable, gain: 0 },
    };
  if (first && (first.share >= SURE || (namedShare >= SURE && named.length > 0))) {
    const cause = first.share >= SURE ? first : firstOf(named);
    return {
      ...base,
      verdict: 'determined',
      cause,
      also: named.filter((each) => each !== cause),
      remaining: [cause],
    };
  }
  const next = asked < MOST_QUESTIONS ? nextStep(symptom, evidence) : undefined;
  return { ...base, verdict: next ? 'open' : 'undetermined', remaining, ...(next ? { next } : {}) };
}

/** The likely ones; where none is, the few that come first and are much alike. */
function stillPossible(ranked: readonly Ranked[]): Ranked[] {
  const first = ranked[0]?.share ?? 0;
  return ranked.filter(
    ({ share }, place) => share >= POSSIBLE || (first < SURE && place < SHOWN && share >= first / MUCH_LESS),
  );
}

/** A test that says something of a cause and has not been made. */
function untested(symptom: Symptom, code: string, evidence: Evidence): ObservationId | undefined {
  const known = new Set<ObservationId>([...evidence.observed.map(({ id }) => id), ...(evidence.unknown ?? [])]);
  const signs = POSSIBILITIES.filter((each) => each.code === code && each.behind[symptom]).map((each) => each.signs);
  return (Object.keys(OBSERVATIONS) as ObservationId[]).find(
    (id) =>
      observation(id).test?.of.includes(symptom) && !known.has(id) && signs.some((each) => each[id] !== undefined),
  );
}

/** Several are named: what a message met comes before what was found beforehand, then what it met last, then what comes first on the way. */
function firstOf(named: readonly Ranked[]): Ranked {
  const met = ({ named: by }: Ranked) => (by?.by === 'told' ? 0 : 1);
  const at = ({ named: by }: Ranked) => (by?.by === 'told' ? (by.at ?? 0) : 0);
  const place = ({ stage }: Ranked) => STAGES.indexOf(stage);
  return [...named].sort(
    (a, b) => met(a) - met(b) || at(b) - at(a) || place(a) - place(b) || b.share - a.share,
  )[0] as Ranked;
}

/** All possible causes of the symptom, likeliest first; their shares leave room for something else. */
function rank(symptom: Symptom, evidence: Evidence): Ranked[] {
  const weighed = POSSIBILITIES.flatMap((possibility) => {
    const prior = possibility.behind[symptom];
    return prior ? [weigh(possibility, prior, evidence)] : [];
  });
  const best = new Map<string, (typeof weighed)[number]>();
  for (const each of weighed) {
    const known = best.get(each.code);
    if (!known || known.weight < each.weight) best.set(each.code, each);
  }
  const total = [...best.values()].reduce((sum, { weight }) => sum + weight, SOMETHING_ELSE);
  return [...best.values()]
    .map(({ weight, ...rest }) => ({ ...rest, share: weight / total }))
    .sort((a, b) => b.share - a.share || a.code.localeCompare(b.code));
}

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
  const told = evidence.named.find(({ code, by }) => code === possibility.code && by === 'told');
  const setUp = evidence.named.find(({ code, by }) => code === possibility.code && by === 'set-up');
  named(possibility.told, told, evidence.traffic, 'No message met this lately');
  named(possibility.setUp, setUp, !told?.stands, 'The set-up was examined and shows nothing of the kind');
  for (const { id, value, said, href } of evidence.observed) {
    const so = possibility.signs[id];
    if (so === undefined) continue;
    const { usually, yes, no } = observation(id);
    apply(value ? so / usually : (1 - so) / (1 - usually), said ?? (value ? yes : no), href);
  }
  reasons.sort((a, b) => Math.abs(Math.log(b.factor)) - Math.abs(Math.log(a.factor)));
  // What a message met is said; the button comes from wherever it is known.
  const by = told ? { ...(setUp?.action ? { action: setUp.action } : {}), ...told } : setUp;
  return { code: possibility.code, stage: possibility.stage, weight, reasons, ...(by ? { named: by } : {}) };

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
function nextStep(symptom: Symptom, evidence: Evidence): Next | undefined {
  const known = new Set<ObservationId>([...evidence.observed.map(({ id }) => id), ...(evidence.unknown ?? [])]);
  const now = entropy(rank(symptom, evidence));
  const steps = (Object.keys(OBSERVATIONS) as ObservationId[]).flatMap((id): Next[] => {
    const { ask, test } = observation(id);
    const kind =
      test?.of.includes(symptom) && evidence.canTest ? 'test' : ask?.of.includes(symptom) ? 'ask' : undefined;
    if (!kind || known.has(id)) return [];
    const gain = now - expectedEntropy(symptom, evidence, id);
    return gain > (kind === 'test' ? WORTH_TESTING : WORTH_ASKING) ? [{ kind, id, gain }] : [];
  });
  return steps.sort((a, b) => Number(b.kind === 'test') - Number(a.kind === 'test') || b.gain - a.gain)[0];
}

function expectedEntropy(symptom: Symptom, evidence: Evidence, id: ObservationId): number {
  const now = rank(symptom, evidence);
  const signs = new Map(
    POSSIBILITIES.filter(({ behind }) => behind[symptom]).map(({ code, signs }) => [code, signs[id]]),
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
