/**
 * Routing against a second reading of the same rules, written from their description alone
 * and without regard to speed; and the analysis against messages that try to refute it.
 */
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Arrival } from './arrival';
import type { Condition } from './conditions';
import { compileSet, decide } from './decide';
import { explain } from './explain';
import type { Group } from './group';
import type { OfficeHours } from './hours';
import { BARE_NAMES } from './names';
import { examineRoutes } from './overlap';
import { Replay } from './replay';
import type { Route, RouteSet } from './route';

const HOURS: OfficeHours[] = [
  {
    id: 'desk',
    name: 'Desk',
    zone: 'Europe/London',
    week: [{ days: [1, 2, 3, 4, 5], from: '09:00', to: '17:00' }],
    exceptions: [{ date: '2026-12-25', name: 'Christmas Day', openings: [] }],
  },
];

/* ---- the second reading ---- */

function wordsOf(text: string): string[] {
  const letters: string[] = [];
  for (const sign of text.normalize('NFKD')) {
    if (/\p{M}/u.test(sign)) continue;
    letters.push(/[\p{L}\p{N}]/u.test(sign) ? sign.toLowerCase() : ' ');
  }
  return letters.join('').split('ß').join('ss').split(' ').filter(Boolean);
}

function referenceHolds(part: Condition | Group, arrival: Arrival): boolean | 'ask' {
  if ('match' in part) {
    const answers = part.of.map((inner) => referenceHolds(inner, arrival));
    if (part.match === 'all') return answers.includes(false) ? false : answers.includes('ask') ? 'ask' : true;
    const some = answers.includes(true) ? true : answers.includes('ask') ? 'ask' : false;
    if (part.match === 'any' || some === 'ask') return some;
    return !some;
  }
  const main = (tag: string) => tag.split('-')[0];
  switch (part.on) {
    case 'channel':
      return part.ids.some((id) => id === arrival.channel);
    case 'keyword':
      return part.words.some((word) => {
        if (part.way === 'pattern') return new RegExp(word, 'i').test(arrival.text);
        const wanted = wordsOf(word);
        const said = wordsOf(arrival.text);
        if (wanted.length === 0) return false;
        const places = part.way === 'contains' ? said.map((_, place) => place) : [0];
        const fits = places.some((place) => wanted.every((each, offset) => said[place + offset] === each));
        return part.way === 'exact' ? fits && said.length === wanted.length : fits;
      });
    case 'sender':
      return arrival.known === part.known;
    case 'open': {
      const count = arrival.open[`${part.app} ${part.record}`];
      if (count === undefined) return 'ask';
      if (part.count === 'unknown' || count === 'failed') return part.count === 'unknown' && count === 'failed';
      return part.count === 'none' ? count === 0 : part.count === 'one' ? count === 1 : count >= 2;
    }
    case 'tag':
      return arrival.tags.some((tag) => tag === part.tag) ? part.has : !part.has;
    case 'attribute': {
      const value = (arrival.attributes[part.name] ?? '').trim();
      const wanted = (part.value ?? '').trim();
      const both = value !== '' && wanted !== '' && !Number.isNaN(Number(value)) && !Number.isNaN(Number(wanted));
      const equal = both ? Number(value) === Number(wanted) : value.toLowerCase() === wanted.toLowerCase();
      if (part.test === 'known') return value !== '';
      if (part.test === 'unknown') return value === '';
      if (part.test === 'is') return value !== '' && equal;
      if (part.test === 'is-not') return value === '' || !equal;
      return both && (part.test === 'over' ? Number(value) > Number(wanted) : Number(value) < Number(wanted));
    }
    case 'language':
      return arrival.language !== undefined && part.tags.some((tag) => main(tag) === main(arrival.language ?? ''));
    case 'media':
      return arrival.media === part.has;
    case 'hours': {
      const read = new Intl.DateTimeFormat('en-GB', {
        timeZone: 'Europe/London',
        weekday: 'short',
        hour: '2-digit',
        day: '2-digit',
        month: '2-digit',
        hourCycle: 'h23',
      }).formatToParts(arrival.at);
      const of = (type: string) => read.find((each) => each.type === type)?.value ?? '';
      const working = !['Sat', 'Sun'].includes(of('weekday')) && Number(of('hour')) >= 9 && Number(of('hour')) < 17;
      const open = working && !(of('day') === '25' && of('month') === '12');
      return open === part.open;
    }
    case 'conversation':
      return part.states.some((state) => state === arrival.conversation);
    case 'answers':
      return part.templates.some((id) => id === arrival.answers);
    case 'button':
      return part.labels.some(
        (label) => arrival.button !== undefined && wordsOf(label).join() === wordsOf(arrival.button).join(),
      );
  }
}

function referenceRoute({ routes }: RouteSet, arrival: Arrival): string[] | 'ask' {
  const taken: string[] = [];
  for (const route of routes.filter(({ off }) => !off)) {
    const holds = referenceHolds(route.when, arrival);
    if (holds === 'ask') return 'ask';
    if (!holds) continue;
    taken.push(route.id);
    if (!route.goesOn) return taken;
  }
  return taken;
}

/* ---- what is generated: few values each, so that routes meet and cover each other often ---- */

const WORDS = ['lock', 'LOCK gate', 'gate', 'Écluse', 'écluse gate', 'stop page', 'straße', 'ｌｏｃｋ', '17'];
const TEXTS = [
  ...WORDS,
  'Lock!',
  ' lock  GATE please',
  'the gate',
  'ecluse',
  'STRASSE',
  '„lock“',
  'lock-gate',
  '…',
  '🛶',
  '17 locks',
];
const VALUES = ['Heron', 'heron', '5', '5.0', '7', ''];

const condition: fc.Arbitrary<Condition> = fc.oneof(
  fc.record({ on: fc.constant('channel' as const), ids: fc.subarray(['a', 'b', 'c']) }),
  fc.record({
    on: fc.constant('keyword' as const),
    way: fc.constantFrom('exact' as const, 'begins' as const, 'contains' as const),
    words: fc.array(fc.constantFrom(...WORDS), { maxLength: 2 }),
  }),
  fc.record({
    on: fc.constant('keyword' as const),
    way: fc.constant('pattern' as const),
    words: fc.subarray(['lo[ck]+', '^gate', '[0-9]{2}$'], { minLength: 1 }),
  }),
  fc.record({ on: fc.constant('sender' as const), known: fc.boolean() }),
  fc.record({
    on: fc.constant('open' as const),
    app: fc.constantFrom('desk', 'books'),
    record: fc.constant('ticket'),
    count: fc.constantFrom('none' as const, 'one' as const, 'several' as const, 'unknown' as const),
  }),
  fc.record({ on: fc.constant('tag' as const), tag: fc.constantFrom('vip', 'crew'), has: fc.boolean() }),
  fc.record({
    on: fc.constant('attribute' as const),
    name: fc.constantFrom('boat', 'length'),
    test: fc.constantFrom(
      'is' as const,
      'is-not' as const,
      'known' as const,
      'unknown' as const,
      'over' as const,
      'under' as const,
    ),
    value: fc.constantFrom(...VALUES),
  }),
  fc.record({ on: fc.constant('language' as const), tags: fc.subarray(['en', 'en-GB', 'sv', 'fr']) }),
  fc.record({ on: fc.constant('media' as const), has: fc.boolean() }),
  fc.record({ on: fc.constant('hours' as const), id: fc.constant('desk'), open: fc.boolean() }),
  fc.record({
    on: fc.constant('conversation' as const),
    states: fc.subarray(['new' as const, 'open' as const, 'waiting' as const, 'closed' as const]),
  }),
  fc.record({ on: fc.constant('answers' as const), templates: fc.subarray(['t1', 't2']) }),
  fc.record({ on: fc.constant('button' as const), labels: fc.subarray(['Yes', 'No thanks']) }),
);

const { group } = fc.letrec<{ group: Group; part: Condition | Group }>((tie) => ({
  part: fc.oneof({ depthSize: 'small', withCrossShrink: true }, condition, tie('group')),
  group: fc.record({
    match: fc.constantFrom('all' as const, 'all' as const, 'any' as const, 'none' as const),
    of: fc.array(tie('part'), { maxLength: 3 }),
  }),
}));

const route = (id: string): fc.Arbitrary<Route> =>
  fc.record({
    id: fc.constant(id),
    name: fc.constant(`Route ${id}`),
    when: group,
    steps: fc.constant([]),
    goesOn: fc.boolean().map((yes) => yes && id.endsWith('3')),
    stopsOnReply: fc.constant(false),
    off: fc.constant(false),
  });

const ruleSet: fc.Arbitrary<RouteSet> = fc
  .integer({ min: 0, max: 8 })
  .chain((count) => fc.tuple(...Array.from({ length: count }, (_, index) => route(`r${index}`))))
  .map((routes) => ({ routes, hours: HOURS }));

const count = fc.constantFrom(0, 1, 2, 5, 'failed' as const);
const arrival = (asked: boolean): fc.Arbitrary<Arrival> =>
  fc.record({
    text: fc.oneof(
      fc.constantFrom(...TEXTS),
      fc.array(fc.constantFrom(...TEXTS), { maxLength: 3 }).map((all) => all.join(' ')),
    ),
    channel: fc.constantFrom('a', 'b', 'c', 'd'),
    at: fc.integer({ min: Date.UTC(2026, 11, 20), max: Date.UTC(2027, 0, 4) }),
    known: fc.boolean(),
    tags: fc.subarray(['vip', 'crew', 'other']),
    attributes: fc.dictionary(fc.constantFrom('boat', 'length'), fc.constantFrom(...VALUES, '6', 'Tern')),
    language: fc.option(fc.constantFrom('en', 'en-AU', 'sv', 'fr', 'de'), { nil: undefined }),
    media: fc.boolean(),
    conversation: fc.constantFrom('new' as const, 'open' as const, 'waiting' as const, 'closed' as const),
    answers: fc.option(fc.constantFrom('t1', 't2', 't3'), { nil: undefined }),
    button: fc.option(fc.constantFrom('yes', 'No, thanks', 'Perhaps'), { nil: undefined }),
    open: asked
      ? fc.record({ 'desk ticket': count, 'books ticket': count })
      : fc.dictionary(fc.constantFrom('desk ticket', 'books ticket'), count),
  });

describe('against the second reading', () => {
  test('every message goes where the reference says, or asks where it asks', () => {
    fc.assert(
      fc.property(ruleSet, fc.array(arrival(false), { minLength: 5, maxLength: 20 }), (set, arrivals) => {
        const compiled = compileSet(set);
        for (const each of arrivals) {
          const decision = decide(compiled, each);
          const got = decision.kind === 'ask' ? 'ask' : decision.routes.map(({ id }) => id);
          expect(got).toEqual(referenceRoute(set, each));
          if (decision.kind === 'ask') expect(decision.open.length).toBeGreaterThan(0);
        }
      }),
      { numRuns: 600 },
    );
  });

  test('the explanation agrees with the decision, and what would have to differ is said of all others', () => {
    fc.assert(
      fc.property(ruleSet, arrival(true), (set, each) => {
        const explained = explain(set, each, BARE_NAMES);
        expect(explained.filter(({ outcome }) => outcome === 'taken').map(({ id }) => id)).toEqual(
          referenceRoute(set, each),
        );
        for (const { outcome, differ } of explained) if (outcome === 'not-matched') expect(differ).not.toHaveLength(0);
      }),
      { numRuns: 400 },
    );
  });

  test('replay counts as the reference does', () => {
    fc.assert(
      fc.property(ruleSet, ruleSet, fc.array(arrival(false), { maxLength: 30 }), (before, after, arrivals) => {
        const replay = new Replay(before, after);
        replay.take(arrivals.map((each, index) => ({ id: String(index), arrival: each })));
        const { messages, same, unknown, groups } = replay.summary();
        const pairs = arrivals.map((each) => [referenceRoute(before, each), referenceRoute(after, each)]);
        const asks = pairs.filter((pair) => pair.includes('ask')).length;
        const equal = pairs.filter(([a, b]) => a !== 'ask' && b !== 'ask' && String(a) === String(b)).length;
        expect([messages, unknown, same]).toEqual([arrivals.length, asks, equal]);
        expect(groups.reduce((sum, each) => sum + each.count, 0)).toBe(arrivals.length - asks - equal);
      }),
      { numRuns: 150 },
    );
  });
});

describe('what the analysis is certain of', () => {
  /** 10,000 messages, made once and put to every rule set. */
  const messages = fc.sample(arrival(true), { numRuns: 10_000, seed: 2026 });

  test('is never refuted by a message', () => {
    let claims = 0;
    let refutable = 0;
    fc.assert(
      fc.property(ruleSet, (set) => {
        const certainly = examineRoutes(set).filter(
          ({ severity, route: id }) => severity === 'error' && id !== undefined,
        );
        const dead = new Set(
          certainly
            .filter(({ code }) => ['route-shadowed', 'route-covered', 'route-contradicts-itself'].includes(code))
            .map(({ route: id }) => id as string),
        );
        const noCatchAll = examineRoutes(set).some(({ code }) => code === 'catch-all-missing' || code === 'no-routes');
        claims += dead.size;
        if (dead.size === 0 && noCatchAll) return;
        const compiled = compileSet(set);
        for (const each of messages) {
          const decision = decide(compiled, each);
          if (decision.kind === 'ask') throw new Error('everything was asked');
          // Without the finding, something takes every message.
          if (!noCatchAll && decision.routes.length === 0) throw new Error(`nobody takes ${JSON.stringify(each)}`);
          for (const { id } of decision.routes) if (dead.has(id)) throw new Error(`${id} took ${JSON.stringify(each)}`);
        }
        refutable += dead.size;
      }),
      { numRuns: 60, seed: 7 },
    );
    // A test that never had anything to refute would show nothing.
    expect(claims).toBeGreaterThan(20);
    expect(refutable).toBe(claims);
  }, 120_000);

  test('and misses few: a route nobody reaches among 10,000 messages is mostly named', () => {
    const silent = { named: 0, all: 0 };
    for (const set of fc.sample(ruleSet, { numRuns: 60, seed: 11 })) {
      const compiled = compileSet(set);
      const reached = new Set<string>();
      for (const each of messages.slice(0, 4000)) {
        const decision = decide(compiled, each);
        if (decision.kind === 'decided') for (const { id } of decision.routes) reached.add(id);
      }
      const named = new Set(
        examineRoutes(set).flatMap(({ severity, route: id }) => (severity === 'error' && id ? [id] : [])),
      );
      for (const { id } of set.routes) {
        if (reached.has(id)) continue;
        silent.all += 1;
        if (named.has(id)) silent.named += 1;
      }
    }
    expect(silent.named / silent.all).toBeGreaterThan(0.6);
  }, 60_000);
});
