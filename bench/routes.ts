/** Replay of many messages over many routes, against a general rule engine given the same rules and the same facts. */
import { Engine, type RuleProperties, type TopLevelCondition } from 'json-rules-engine';
import { type Arrival, prepare } from '../src/core/routing/arrival';
import type { Condition } from '../src/core/routing/conditions';
import { compileSet, decidePrepared } from '../src/core/routing/decide';
import { explain } from '../src/core/routing/explain';
import type { Group } from '../src/core/routing/group';
import { plainWords } from '../src/core/routing/keyword';
import { BARE_NAMES } from '../src/core/routing/names';
import { examineRoutes } from '../src/core/routing/overlap';
import { Replay } from '../src/core/routing/replay';
import type { Route, RouteSet } from '../src/core/routing/route';

const ROUTES = 300;
const MESSAGES = 100_000;
/** Messages the general engine is given; its time is scaled up. */
const SAMPLE = 300;

export async function routes(): Promise<void> {
  const next = random(2026);
  const set = ruleSet(next);
  const messages = Array.from({ length: MESSAGES }, (_, index) => ({ id: `m${index}`, arrival: arrival(next) }));

  const changed: RouteSet = {
    ...set,
    routes: set.routes.map((route, place) => (place === 40 ? { ...route, off: true } : route)),
  };
  const begun = performance.now();
  const replay = new Replay(set, changed);
  replay.take(messages);
  const both = performance.now() - begun;
  const { groups, same } = replay.summary();
  const compiled = compileSet(set);
  const alone = performance.now();
  for (const { arrival: each } of messages) decidePrepared(compiled, prepare(each));
  const one = performance.now() - alone;

  const general = generalEngine(set);
  const sample = messages.slice(0, SAMPLE);
  const other = performance.now();
  let agreed = 0;
  for (const { arrival: each } of sample) {
    const found = await general(each);
    const decision = decidePrepared(compiled, prepare(each));
    if (decision.kind === 'decided' && (decision.routes[0]?.id ?? 'none') === found) agreed += 1;
  }
  const theirs = ((performance.now() - other) / SAMPLE) * MESSAGES;
  console.log(
    `Routing ${MESSAGES} messages over ${ROUTES} routes: ${(one / 1000).toFixed(2)} s; json-rules-engine on the same rules ${(theirs / 1000).toFixed(0)} s, scaled from ${SAMPLE} (${agreed} of ${SAMPLE} decided alike): ${(theirs / one).toFixed(0)} ×`,
  );
  console.log(
    `Replay of both revisions: ${(both / 1000).toFixed(2)} s, ${same} go where they went, ${groups.length} groups of others`,
  );

  const times: number[] = [];
  for (const { arrival: each } of messages.slice(0, 200)) {
    const at = performance.now();
    explain(set, each, BARE_NAMES);
    times.push(performance.now() - at);
  }
  times.sort((a, b) => a - b);
  const examined = performance.now();
  const findings = examineRoutes(set);
  console.log(
    `Dry run with every explanation: median ${times[100]?.toFixed(2)} ms, p95 ${times[190]?.toFixed(2)} ms; overlap of ${ROUTES} routes examined in ${(performance.now() - examined).toFixed(0)} ms, ${findings.length} findings`,
  );
}

const WORDS = Array.from({ length: 400 }, (_, index) => `word${index}`);
const CHANNELS = Array.from({ length: 20 }, (_, index) => `channel${index}`);

type Next = (most: number) => number;

/** Repeatable: the same rules and messages in every run. */
export function random(seed: number): Next {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return Math.floor((state / 0x7fffffff) * most) % most;
  };
}

export function ruleSet(next: Next): RouteSet {
  const pick = (items: readonly string[]) => items[next(items.length)] as string;
  const routes = Array.from({ length: ROUTES }, (_, index): Route => {
    const ways = ['exact', 'begins', 'contains'] as const;
    const conditions: (Condition | Group)[] = [
      { on: 'keyword', way: ways[next(3)] as (typeof ways)[number], words: [pick(WORDS), pick(WORDS)] },
    ];
    if (next(2)) conditions.push({ on: 'channel', ids: [pick(CHANNELS), pick(CHANNELS), pick(CHANNELS)] });
    if (next(3) === 0) conditions.push({ on: 'sender', known: next(2) === 0 });
    if (next(4) === 0)
      conditions.push({
        match: 'any',
        of: [
          { on: 'tag', tag: 'crew', has: true },
          { on: 'attribute', name: 'length', test: 'over', value: '12' },
        ],
      });
    return {
      id: `r${index}`,
      name: `Route ${index}`,
      when: { match: 'all', of: index === ROUTES - 1 ? [] : conditions },
      steps: [],
      goesOn: false,
      stopsOnReply: false,
      off: false,
    };
  });
  return { routes, hours: [] };
}

function arrival(next: Next): Arrival {
  const words = Array.from({ length: 1 + next(8) }, () => WORDS[next(WORDS.length)]);
  return {
    text: `${words.join(' ')}!`,
    channel: CHANNELS[next(CHANNELS.length)] as string,
    at: 1_800_000_000_000 + next(1_000_000) * 1000,
    known: next(2) === 0,
    tags: next(3) === 0 ? ['crew'] : [],
    attributes: { length: String(next(30)) },
    media: next(10) === 0,
    conversation: 'open',
    open: {},
  };
}

/** The general engine with the same rules: the first by priority that fits. Returns its route's id, or `none`. */
function generalEngine({ routes }: RouteSet): (arrival: Arrival) => Promise<string> {
  const engine = new Engine([], { allowUndefinedFacts: true });
  engine.addOperator<string, string>('exact', (spoken, word) => spoken === ` ${word} `);
  engine.addOperator<string, string>('begins', (spoken, word) => spoken.startsWith(` ${word} `));
  engine.addOperator<string, string>('word', (spoken, word) => spoken.includes(` ${word} `));
  for (const [place, route] of routes.entries())
    engine.addRule({
      conditions: ruleOf(route.when) as TopLevelCondition,
      event: { type: route.id },
      priority: routes.length - place,
    } satisfies RuleProperties);
  let first = 'none';
  engine.on('success', ({ type }) => {
    if (first !== 'none') return;
    first = type;
    engine.stop();
  });
  return async (each) => {
    first = 'none';
    const { spoken } = prepare(each);
    await engine.run({ ...each, spoken, length: Number(each.attributes.length) });
    return first;
  };
}

function ruleOf(group: Group): object {
  return { [group.match]: group.of.map((part) => ('match' in part ? ruleOf(part) : factOf(part))) };
}

function factOf(condition: Condition): object {
  switch (condition.on) {
    case 'keyword': {
      const operator = condition.way === 'contains' ? 'word' : condition.way;
      return { any: condition.words.map((word) => ({ fact: 'spoken', operator, value: plainWords(word) })) };
    }
    case 'channel':
      return { fact: 'channel', operator: 'in', value: condition.ids };
    case 'sender':
      return { fact: 'known', operator: 'equal', value: condition.known };
    case 'tag':
      return { fact: 'tags', operator: 'contains', value: condition.tag };
    case 'attribute':
      return { fact: 'length', operator: 'greaterThan', value: Number(condition.value) };
    default:
      throw new Error(`no rule for ${condition.on}`);
  }
}
