/** Where a message goes: the routes that take it, in order. */
import { type Arrival, type Prepared, prepare } from './arrival';
import { type Condition, kindOf } from './conditions';
import type { Matcher } from './conditions/kind';
import { conditionsOf, type Group, isGroup } from './group';
import { compileGroup } from './match';
import type { Route, RouteSet } from './route';

interface CompiledRoute {
  route: Route;
  fits: Matcher;
}

export interface CompiledSet {
  set: RouteSet;
  /** Those that are on. */
  routes: readonly CompiledRoute[];
  /** Places among `routes` of those a message may fit whatever it says. */
  always: readonly number[];
  /** Places of those that need a word, by that word. */
  byWord: ReadonlyMap<string, readonly number[]>;
}

export function compileSet(set: RouteSet): CompiledSet {
  const active = set.routes.filter(({ off }) => !off);
  const always: number[] = [];
  const byWord = new Map<string, number[]>();
  for (const [place, { when }] of active.entries()) {
    const words = wordsNeeded(when);
    if (!words) always.push(place);
    else for (const word of words) byWord.set(word, [...(byWord.get(word) ?? []), place]);
  }
  const routes = active.map((route) => ({ route, fits: compileGroup(route.when, set.hours) }));
  return { set, routes, always, byWord };
}

/** Words of which a message must hold one to fit a group; undefined where it needs none. */
function wordsNeeded(part: Condition | Group): Set<string> | undefined {
  if (!isGroup(part)) {
    const words = kindOf(part).wordsNeeded?.(part);
    return words && new Set(words.flatMap((word) => word.split(' ')[0] || []));
  }
  if (part.match === 'none') return undefined;
  const each = part.of.map(wordsNeeded);
  if (part.match === 'all') return each.find((words) => words !== undefined);
  return each.includes(undefined) ? undefined : new Set(each.flatMap((words) => [...(words ?? [])]));
}

/** The routes worth asking, in order: those that need no word, and those whose word is said. */
function candidates({ routes, always, byWord }: CompiledSet, { spoken }: Prepared): readonly CompiledRoute[] {
  if (byWord.size === 0) return routes;
  const places = new Set(always);
  for (const word of spoken.split(' ')) for (const place of byWord.get(word) ?? []) places.add(place);
  return [...places].sort((a, b) => a - b).map((place) => routes[place] as CompiledRoute);
}

export type Decision =
  /** In order; none when no route takes it. */
  | { kind: 'decided'; routes: Route[] }
  /** Apps are to be asked first: keys of open records. */
  | { kind: 'ask'; open: string[] };

export function decide(compiled: CompiledSet, arrival: Arrival): Decision {
  return decidePrepared(compiled, prepare(arrival));
}

export function decidePrepared(compiled: CompiledSet, arrival: Prepared): Decision {
  const taken: Route[] = [];
  for (const { route, fits } of candidates(compiled, arrival)) {
    const answer = fits(arrival);
    if (answer === undefined) return { kind: 'ask', open: unasked(route, arrival) };
    if (!answer) continue;
    taken.push(route);
    if (!route.goesOn) break;
  }
  return { kind: 'decided', routes: taken };
}

function unasked({ when }: Route, { open }: Arrival): string[] {
  const keys = conditionsOf(when).flatMap((condition) => kindOf(condition).recordsNeeded?.(condition) ?? []);
  return [...new Set(keys)].filter((key) => open[key] === undefined);
}
