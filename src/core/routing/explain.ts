/** Why a message goes where it goes: of every route what each condition saw, and what would have to differ. */
import { type Arrival, type Prepared, prepare } from './arrival';
import { type Condition, kindOf } from './conditions';
import type { Answer, Matcher } from './conditions/kind';
import { type Group, isGroup } from './group';
import type { OfficeHours } from './hours';
import { combine, compileCondition } from './match';
import type { RouteNames } from './names';
import type { Route, RouteSet } from './route';
import { conditionWords } from './wording';

export interface ExplainedCondition {
  kind: 'condition';
  words: string;
  answer: Answer;
  /** What it looked at, as it was. */
  saw: string;
}

export interface ExplainedGroup {
  kind: 'group';
  match: Group['match'];
  answer: Answer;
  parts: (ExplainedCondition | ExplainedGroup)[];
}

export interface ExplainedRoute {
  id: string;
  name: string;
  /** `taken`: it decided, or was the last before one that goes on. `after`: it fits, but an earlier one had decided, or must be asked about first. */
  outcome: 'taken' | 'not-matched' | 'unasked' | 'after' | 'off';
  when: ExplainedGroup;
  /** Changes each of which would make it match by themselves together; absent where it matches. */
  differ?: string[];
}

const NOTHING_WOULD = 'nothing would do: its conditions hold of no message';

/** Every route in order, those after the one that decided too. */
export function explain(set: RouteSet, arrival: Arrival, names: RouteNames): ExplainedRoute[] {
  const prepared = prepare(arrival);
  let over = false;
  return set.routes.map((route): ExplainedRoute => {
    const when = explainGroup(route.when, prepared, set.hours, names);
    const outcome = outcomeOf(route, when.answer, over);
    // Nothing after it can be told before the app has answered.
    if ((outcome === 'taken' && !route.goesOn) || (outcome === 'unasked' && !over)) over = true;
    return {
      id: route.id,
      name: route.name,
      outcome,
      when,
      ...(when.answer === true ? {} : { differ: missing(when, true) ?? [NOTHING_WOULD] }),
    };
  });
}

function outcomeOf({ off }: Route, answer: Answer, over: boolean): ExplainedRoute['outcome'] {
  if (off) return 'off';
  if (answer === undefined) return 'unasked';
  if (!answer) return 'not-matched';
  return over ? 'after' : 'taken';
}

export function explainGroup(
  group: Group,
  arrival: Prepared,
  hours: readonly OfficeHours[],
  names: RouteNames,
): ExplainedGroup {
  const parts = group.of.map((part): ExplainedGroup['parts'][number] =>
    isGroup(part)
      ? explainGroup(part, arrival, hours, names)
      : {
          kind: 'condition',
          words: wordsOf(part, names),
          answer: matcherOf(part, hours)(arrival),
          saw: kindOf(part).saw(part, arrival, hours, names),
        },
  );
  return {
    kind: 'group',
    match: group.match,
    answer: combine(
      group.match,
      parts.map(({ answer }) => answer),
    ),
    parts,
  };
}

const matchers = new WeakMap<readonly OfficeHours[], WeakMap<Condition, Matcher>>();
const words = new WeakMap<RouteNames, WeakMap<Condition, string>>();

/** A dry run asks the same conditions at every key: what they are does not change while a message is typed. */
function matcherOf(condition: Condition, hours: readonly OfficeHours[]): Matcher {
  return remembered(matchers, hours, condition, () => compileCondition(condition, hours));
}

function wordsOf(condition: Condition, names: RouteNames): string {
  return remembered(words, names, condition, () => conditionWords(condition, names));
}

function remembered<Around extends object, Value>(
  kept: WeakMap<Around, WeakMap<Condition, Value>>,
  around: Around,
  condition: Condition,
  make: () => Value,
): Value {
  let own = kept.get(around);
  if (!own) {
    own = new WeakMap();
    kept.set(around, own);
  }
  let value = own.get(condition);
  if (value === undefined) {
    value = make();
    own.set(condition, value);
  }
  return value;
}

/** The least that would have to change for a part to answer `wanted`; undefined where nothing would do. */
function missing(part: ExplainedCondition | ExplainedGroup, wanted: boolean): string[] | undefined {
  if (part.answer === wanted) return [];
  if (part.kind === 'condition') return [wanted ? part.words : `it is not so that ${part.words}`];
  const own = part.match === 'none' ? !wanted : wanted;
  const each = part.parts.map((inner) => missing(inner, own));
  // All must change where all are needed; where one is enough, the one that asks least.
  if ((part.match === 'all') === own)
    return each.some((inner) => !inner) ? undefined : each.flatMap((inner) => inner ?? []);
  return each.reduce((least, next) => (!least || (next && next.length < least.length) ? next : least), undefined);
}
