/**
 * What the routes of a set do to each other: which can never match, which share keywords,
 * whether something is left that nobody takes. A finding of severity `error` is certain;
 * what only may be is worth attention and says so.
 */
import type { Finding } from '../finding';
import type { Mapping } from '../templates/mapping';
import { kindOf } from './conditions';
import { conditionsOf } from './group';
import {
  beginAnalysis,
  boxesOf,
  type Conjunction,
  certain,
  literalsOf,
  negated,
  type Predicate,
  possible,
  together,
} from './literals';
import { type Route, type RouteSet, type RouteStep, stepsOf } from './route';

export interface RouteFinding extends Finding {
  /** The route it is about; absent for the set as a whole. */
  route?: string;
  /** The routes it is about besides. */
  because?: string[];
}

/** How far alternatives are split against each other; beyond, nothing is claimed. */
const DEEPEST = 12;
const MOST_SPLITS = 4000;

interface Analysed {
  route: Route;
  /** Undefined where it is too large to be analysed. */
  boxes: Conjunction[] | undefined;
  /** Its keywords, plain. */
  words: ReadonlySet<string>;
}

/** `channels`: those there are, so that one nobody routes is named. */
export function examineRoutes(
  { routes }: RouteSet,
  channels: readonly { id: string; name: string }[] = [],
): RouteFinding[] {
  beginAnalysis();
  const active = routes
    .filter(({ off }) => !off)
    .map((route): Analysed => ({ route, boxes: boxesOf(route.when), words: keywordsOf(route) }));
  const findings: RouteFinding[] = [];
  const before: Owned[] = [];
  for (const analysed of active) {
    const { route, boxes } = analysed;
    findings.push(...unfit(route), ...keptFrom(analysed, before));
    if (!route.goesOn) for (const box of boxes ?? []) before.push({ box, owner: route });
  }
  findings.push(...duplicateKeywords(active), ...leftOver(active, channels));
  return findings;
}

/** Boxes of the routes before one that end with what they take, each with its route. */
type Owned = { box: Conjunction; owner: Route };

/** Why a route never matches, or may seldom. */
function keptFrom({ route, boxes }: Analysed, before: readonly Owned[]): RouteFinding[] {
  if (!boxes) return [];
  if (boxes.length === 0)
    return [
      {
        code: 'route-contradicts-itself',
        severity: 'error',
        route: route.id,
        problem: `“${route.name}” can never match: its conditions rule each other out.`,
        remedy: 'Take one of them away, or let any of them be enough.',
      },
    ];
  const met = boxes.map((box) => ({ box, by: meeting(box, before) }));
  const takes = (owner: Route) => (each: (typeof met)[number]) => {
    const own = each.by.get(owner);
    return own !== undefined && inside(each.box, own, DEEPEST, { splits: MOST_SPLITS });
  };
  const alone = [...(met[0]?.by.keys() ?? [])].find((owner) => met.every(takes(owner)));
  if (alone)
    return [
      {
        code: 'route-shadowed',
        severity: 'error',
        route: route.id,
        because: [alone.id],
        problem: `“${route.name}” can never match: “${alone.name}” before it takes everything it would take.`,
        remedy: `Move it before “${alone.name}”, or let that one go on to the next.`,
      },
    ];
  const ending = [...new Set(before.map(({ owner }) => owner))];
  const budget = { splits: MOST_SPLITS };
  if (ending.length > 1 && met.every(({ box, by }) => inside(box, [...by.values()].flat(), DEEPEST, budget)))
    return [
      {
        code: 'route-covered',
        severity: 'error',
        route: route.id,
        because: ending.map(({ id }) => id),
        problem: `“${route.name}” can never match: the routes before it take together everything it would take.`,
        remedy: 'Move it before one of them, or make them narrower.',
      },
    ];
  const partly = ending.find((owner) => met.some(takes(owner)));
  if (partly)
    return [
      {
        code: 'route-partly-covered',
        severity: 'notice',
        route: route.id,
        because: [partly.id],
        problem: `“${partly.name}” before it takes a part of what “${route.name}” asks for.`,
        remedy: 'Leave it so if that is meant; else change their order.',
      },
    ];
  return [];
}

/** What of the routes before may meet a box at all, by route, in their order. */
function meeting(box: Conjunction, before: readonly Owned[]): Map<Route, Conjunction[]> {
  const by = new Map<Route, Conjunction[]>();
  for (const { box: other, owner } of before) {
    if (!together(box, other)) continue;
    const own = by.get(owner);
    if (own) own.push(other);
    else by.set(owner, [other]);
  }
  return by;
}

/** Whether every message that fits one of `inner` certainly fits one of `outer`. */
export function covers(outer: readonly Conjunction[], inner: readonly Conjunction[]): boolean {
  const budget = { splits: MOST_SPLITS };
  return inner.every((box) => inside(box, outer, DEEPEST, budget));
}

/**
 * A box is inside a union when it is inside one of them; or when it is split at a literal of
 * one that it leaves open, and both halves are inside. Gives up, saying no, rather than guess.
 */
function inside(box: Conjunction, outer: readonly Conjunction[], depth: number, budget: { splits: number }): boolean {
  if (!possible(box)) return true;
  const unmetOf = (each: Conjunction) => each.filter((literal) => !box.some((own) => certain(own, literal)));
  const meets = outer.filter((each) => together(box, each));
  if (meets.some((each) => each.every((literal) => box.some((own) => certain(own, literal))))) return true;
  const useful = completed(meets.map((each) => ({ box: each, unmet: unmetOf(each) })));
  const open = useful[0]?.unmet[0];
  budget.splits -= 1;
  if (!open || depth === 0 || budget.splits <= 0) return false;
  const rest = useful.map((each) => each.box);
  return inside([...box, open], rest, depth - 1, budget) && inside([...box, negated(open)], rest, depth - 1, budget);
}

interface Near {
  box: Conjunction;
  /** What of it is not certain yet. */
  unmet: Predicate[];
}

/** Boxes that can be part of a whole: each thing they ask for is taken, where it is not so, by another of them. */
function completed(near: readonly Near[]): readonly Near[] {
  let left = near;
  for (;;) {
    const asked = new Map<number, Predicate>();
    for (const { unmet } of left) for (const literal of unmet) asked.set(literal.nr, literal);
    const has = (literal: Predicate) =>
      // Of these one always holds, so several together may be everything without any being another's opposite.
      literal.oneOf !== undefined ||
      // The opposite differs in the last bit.
      asked.has(literal.nr ^ 1) ||
      (kindOf(literal.atom).completes && [...asked.values()].some((other) => certain(negated(literal), other)));
    const kept = left.filter(({ unmet }) => unmet.every(has));
    if (kept.length === left.length) return kept;
    left = kept;
  }
}

/** Whether some message may fit both; no is certain. */
export function mayMeet(one: readonly Conjunction[], other: readonly Conjunction[]): boolean {
  return one.some((a) => other.some((b) => together(a, b)));
}

/** Conditions no message can ever fit. */
function unfit(route: Route): RouteFinding[] {
  return conditionsOf(route.when).flatMap((condition) =>
    (kindOf(condition).problems?.(condition) ?? []).map(({ code, problem, remedy }) => ({
      code,
      severity: 'error' as const,
      route: route.id,
      problem: problem(route.name),
      remedy,
    })),
  );
}

/** The same keyword in two routes that may meet: the later one gets only what the first leaves. */
function duplicateKeywords(active: readonly Analysed[]): RouteFinding[] {
  const findings: RouteFinding[] = [];
  for (const [place, later] of active.entries())
    for (const earlier of active.slice(0, place)) {
      if (earlier.route.goesOn || !earlier.boxes || !later.boxes) continue;
      const word = sharedWord(earlier.words, later.words);
      if (!word || !mayMeet(earlier.boxes, later.boxes) || covers(earlier.boxes, later.boxes)) continue;
      findings.push({
        code: 'keyword-shared',
        severity: 'attention',
        route: later.route.id,
        because: [earlier.route.id],
        problem: `“${word}” is a keyword of “${earlier.route.name}” too, which comes first and may take messages meant for “${later.route.name}”.`,
        remedy: 'Choose another keyword, or put the narrower route first.',
      });
    }
  return findings;
}

function keywordsOf({ when }: Route): Set<string> {
  return new Set(conditionsOf(when).flatMap((condition) => kindOf(condition).wordsNeeded?.(condition) ?? []));
}

function sharedWord(mine: ReadonlySet<string>, theirs: ReadonlySet<string>): string | undefined {
  for (const word of theirs) if (mine.has(word)) return word;
  return undefined;
}

/** Whether what nobody asked for goes somewhere. */
function leftOver(active: readonly Analysed[], channels: readonly { id: string; name: string }[]): RouteFinding[] {
  if (active.length === 0)
    return [
      {
        code: 'no-routes',
        severity: 'error',
        problem: 'There is no route, so no message goes anywhere but to the shared desk.',
        remedy: 'Add one that takes everything.',
      },
    ];
  const all = active.flatMap(({ boxes }) => boxes ?? []);
  if (covers(all, [[]])) return [];
  const analysed = active.every(({ boxes }) => boxes !== undefined);
  const over = (id: string): Conjunction => literalsOf({ on: 'channel', ids: [id] });
  const untaken = analysed ? channels.filter(({ id }) => !mayMeet(all, [over(id)])) : [];
  if (untaken.length > 0)
    return [
      {
        code: 'channel-without-route',
        severity: 'error',
        problem: `No route takes what comes in over ${untaken.map(({ name }) => name).join(', ')}.`,
        remedy: 'Add the channel to a route, or a last route that always matches.',
      },
    ];
  return [
    {
      code: 'catch-all-missing',
      severity: 'attention',
      problem: 'A message may match no route; it is then shown as unrouted.',
      remedy: 'Add a last route that always matches.',
    },
  ];
}

/** What every step of a route needs from the installation. */
export interface RouteSurroundings {
  /** Channels that cannot send texts, with their names: numbers that only receive. */
  silent: readonly { id: string; name: string }[];
  /** Why a template cannot be sent now, by id; absent when it can. */
  templateProblems: Readonly<Record<string, string>>;
  /** What each template is to be filled with, by id. */
  templateVariables: Readonly<Record<string, readonly string[]>>;
  /** Why an app, an action or a sheet cannot be used now, by id; absent when it can. */
  problems: Readonly<Record<string, string>>;
}

/** What keeps steps from being done, and answers that may call for answers. */
export function examineSteps({ routes }: RouteSet, around: RouteSurroundings): RouteFinding[] {
  return routes
    .filter(({ off }) => !off)
    .flatMap((route) => [
      ...stepsOf(route.steps).flatMap((step) => stepFindings(route, step, around)),
      ...afterStop(route),
      ...answersEverything(route),
    ]);
}

function stepFindings(route: Route, step: RouteStep, around: RouteSurroundings): RouteFinding[] {
  const say = (code: string, problem: string, remedy: string, severity: 'error' | 'attention' = 'error') => [
    { code, severity, route: route.id, problem, remedy },
  ];
  if (step.do === 'reply' || step.do === 'ask') {
    const findings: RouteFinding[] = [];
    const over = channelsOf(route);
    const silent = around.silent.filter(({ id }) => !over || over.includes(id));
    if (silent.length > 0)
      findings.push(
        ...say(
          'reply-one-way',
          `“${route.name}” answers, and ${silent.map(({ name }) => name).join(', ')} cannot send.`,
          'Leave that channel out of the route, or answer over another.',
          over && silent.length === over.length ? 'error' : 'attention',
        ),
      );
    const text = 'template' in step ? undefined : step.text;
    if (text !== undefined && text.trim() === '')
      findings.push(...say('step-empty', `“${route.name}” answers with nothing.`, 'Write the text.'));
    const problem = 'template' in step ? around.templateProblems[step.template] : undefined;
    if (problem) findings.push(...say('step-template', `“${route.name}”: ${problem}`, 'Choose another, or fix it.'));
    const unmapped = 'template' in step ? unmappedIn(step, around.templateVariables[step.template] ?? []) : [];
    if (unmapped.length > 0)
      findings.push(
        ...say(
          'step-unmapped',
          `“${route.name}” answers with a template in which nothing is mapped to ${unmapped.map((name) => `{{ ${name} }}`).join(', ')}.`,
          'Choose a field, an attribute or a constant for it.',
        ),
      );
    return findings;
  }
  const needs = needed(step);
  const problem = needs && around.problems[needs];
  if (problem) return say('step-cannot', `“${route.name}”: ${problem}`, 'Fix it there, or take the step away.');
  if (step.do === 'tag' && !step.tag.trim())
    return say('step-empty', `“${route.name}” tags with nothing.`, 'Write the tag.');
  if (step.do === 'notify' && step.to.length === 0)
    return say('step-empty', `“${route.name}” mails nobody.`, 'Write an e-mail address.');
  return [];
}

function unmappedIn({ mapping }: { mapping: Mapping }, variables: readonly string[]): string[] {
  return variables.filter((name) => !Object.hasOwn(mapping, name));
}

function needed(step: RouteStep): string | undefined {
  if (step.do === 'tell') return step.app;
  if (step.do === 'record') return step.action;
  return step.do === 'append' ? step.sheet : undefined;
}

/** The channels a route is limited to by its outermost conditions; undefined for all. */
function channelsOf({ when }: Route): readonly string[] | undefined {
  if (when.match !== 'all') return undefined;
  const own = when.of.find((part) => 'on' in part && part.on === 'channel');
  return own && 'on' in own && own.on === 'channel' ? own.ids : undefined;
}

function answersEverything(route: Route): RouteFinding[] {
  if (conditionsOf(route.when).some((condition) => kindOf(condition).tellsPeopleFromMachines)) return [];
  if (!route.steps.some((step) => step.do === 'reply' || step.do === 'ask')) return [];
  return [
    {
      code: 'reply-may-echo',
      severity: 'attention',
      route: route.id,
      problem: `“${route.name}” answers whatever is said, so it may answer a machine that answers by itself; it is stopped after a few rounds.`,
      remedy: 'Let it answer in a new conversation only, or to a keyword.',
    },
  ];
}

function afterStop(route: Route): RouteFinding[] {
  const place = route.steps.findIndex((step) => step.do === 'stop');
  if (place < 0 || place === route.steps.length - 1) return [];
  return [
    {
      code: 'steps-after-stop',
      severity: 'attention',
      route: route.id,
      problem: `“${route.name}” stops before its last steps, which are never done.`,
      remedy: 'Take the stop away, or what comes after it.',
    },
  ];
}
