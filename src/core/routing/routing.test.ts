import { describe, expect, test } from 'vitest';
import type { Arrival } from './arrival';
import type { Condition } from './conditions';
import { explain } from './explain';
import type { Group } from './group';
import { hoursAt, minutesOf, type OfficeHours } from './hours';
import { pattern, plainWords } from './keyword';
import { BARE_NAMES } from './names';
import { examineRoutes, examineSteps } from './overlap';
import type { Route, RouteSet, RouteStep } from './route';
import { groupWords, minutesWords, stepWords } from './wording';

const ARRIVAL: Arrival = {
  text: 'Lock 14:20, narrowboat Heron',
  channel: 'harbour',
  at: Date.UTC(2026, 10, 26, 9, 30),
  known: false,
  tags: [],
  attributes: {},
  language: 'en',
  media: false,
  conversation: 'new',
  open: {},
};
const all = (...of: Group['of']): Group => ({ match: 'all', of });
const keyword = (way: 'exact' | 'begins' | 'contains' | 'pattern', ...words: string[]): Condition => ({
  on: 'keyword',
  way,
  words,
});
const route = (id: string, when: Group, more: Partial<Route> = {}): Route => ({
  id,
  name: id,
  when,
  steps: [],
  goesOn: false,
  stopsOnReply: false,
  off: false,
  ...more,
});
const set = (...routes: Route[]): RouteSet => ({ routes, hours: [] });
const codes = (...routes: Route[]) =>
  examineRoutes(set(...routes)).map(({ code, route: id }) => `${code} ${id ?? ''}`.trim());

const fitsPattern = (text: string, source: string) => {
  const compiled = pattern(source);
  return typeof compiled !== 'string' && compiled.matcher(text).find();
};

describe('keywords', () => {
  test.each([
    ['  LOCK!! ', 'lock'],
    ['Écluse', 'ecluse'],
    ['ＬＯＣＫ　１７', 'lock 17'],
    ['“stop-page”', 'stop page'],
    ['Straße', 'strasse'],
    ['ŞİMDİ', 'simdi'],
    ['ﬁsh', 'fish'],
    ['🛶', '🛶'],
    ['…', '...'],
    ['', ''],
  ])('%s reads %s', (text, words) => expect(plainWords(text)).toBe(words));

  test('a pattern is linear, and one that could hang is refused', () => {
    const begun = performance.now();
    expect(fitsPattern(`${'a'.repeat(5000)}!`, '^(a+)+$')).toBe(false);
    expect(performance.now() - begun).toBeLessThan(2000);
    expect(pattern('(a)\\1')).toEqual(expect.any(String));
    expect(pattern('(?=a)')).toEqual(expect.any(String));
    expect(fitsPattern('BERTH b12', 'berth\\s+b\\d+')).toBe(true);
    expect(fitsPattern('anything', '[')).toBe(false);
  });
});

describe('office hours', () => {
  const HOURS: OfficeHours = {
    id: 'h',
    name: 'Lock keepers',
    zone: 'Europe/Stockholm',
    week: [
      { days: [1, 2, 3, 4, 5], from: '08:00', to: '17:00' },
      { days: [5], from: '22:00', to: '02:00' },
      { days: [7], from: '18:00', to: '24:00' },
    ],
    exceptions: [
      { date: '2026-12-24', name: 'Julafton', openings: [] },
      { date: '2026-12-27', openings: [{ from: '10:00', to: '12:00' }] },
    ],
  };
  const at = (iso: string) => hoursAt(HOURS, Date.parse(iso));
  test.each([
    ['2026-11-26T07:00:00Z', true, 'Thu 08:00'],
    ['2026-11-26T16:00:00Z', false, 'Thu 17:00'],
    // Friday night runs into Saturday.
    ['2026-11-28T00:59:00Z', true, 'Sat 01:59'],
    ['2026-11-28T01:00:00Z', false, 'Sat 02:00'],
    ['2026-11-29T22:59:00Z', true, 'Sun 23:59'],
    ['2026-11-29T23:00:00Z', false, 'Mon 00:00'],
    // Clocks go back on 25 October 2026: 02:30 comes twice, 07:30 UTC is 08:30 afterwards.
    ['2026-10-26T07:30:00Z', true, 'Mon 08:30'],
    ['2026-10-23T05:59:00Z', false, 'Fri 07:59'],
    ['2026-10-23T06:00:00Z', true, 'Fri 08:00'],
  ])('%s', (iso, open, local) => expect(at(iso)).toMatchObject({ open, local: `${local} in Europe/Stockholm` }));

  test('a date that is otherwise, with its name', () => {
    expect(at('2026-12-24T10:00:00Z')).toMatchObject({ open: false, exception: 'Julafton' });
    expect(at('2026-12-27T09:30:00Z')).toMatchObject({ open: true, exception: '2026-12-27' });
    expect(at('2026-12-27T19:00:00Z')).toMatchObject({ open: false });
  });

  test.each([
    ['24:00', 1440],
    ['24:01', undefined],
    ['7:00', undefined],
    ['07:60', undefined],
  ])('%s', (text, minutes) => expect(minutesOf(text)).toBe(minutes));
});

describe('why', () => {
  test('each condition with what it saw, and what would have to differ', () => {
    const desk = route(
      'desk',
      all(keyword('begins', 'lock'), {
        match: 'any',
        of: [{ on: 'sender', known: true }, all({ on: 'tag', tag: 'crew', has: true }, { on: 'media', has: true })],
      }),
    );
    const [explained] = explain(set(desk), ARRIVAL, BARE_NAMES);
    expect(explained).toMatchObject({
      outcome: 'not-matched',
      differ: ['the sender is a contact'],
      when: {
        parts: [
          { words: 'it begins with “lock”', answer: true, saw: 'lock 14 20 narrowboat heron' },
          { answer: false, parts: [{ saw: 'nobody known' }, { parts: [{ saw: 'no tags' }, { saw: 'no file' }] }] },
        ],
      },
    });
  });

  test('what waits for an app, what comes after, what is off', () => {
    const open = all({ on: 'open', app: 'desk', record: 'ticket', count: 'one' });
    const rest = route('rest', all());
    const outcomes = (arrival: Arrival, ...routes: Route[]) =>
      explain(set(...routes), arrival, BARE_NAMES).map(({ outcome }) => outcome);
    expect(outcomes(ARRIVAL, route('a', open), rest)).toEqual(['unasked', 'after']);
    expect(
      outcomes({ ...ARRIVAL, open: { 'desk ticket': 1 } }, route('a', open), rest, route('b', all(), { off: true })),
    ).toEqual(['taken', 'after', 'off']);
    expect(
      explain(set(route('a', open)), { ...ARRIVAL, open: { 'desk ticket': 'failed' } }, BARE_NAMES)[0]?.when.parts[0],
    ).toMatchObject({ answer: false, saw: 'the app did not say' });
  });
});

describe('what routes do to each other', () => {
  test('shadowed by one, covered by several, contradicting itself', () => {
    expect(
      codes(
        route('a', all(keyword('contains', 'lock'))),
        route('b', all(keyword('exact', 'lock gate'))),
        route('z', all()),
      ),
    ).toEqual(['route-shadowed b']);
    expect(
      codes(
        route('a', all({ on: 'sender', known: true })),
        route('b', all({ on: 'sender', known: false }, { on: 'media', has: false })),
        route('c', all({ on: 'media', has: true })),
        route('d', all()),
      ),
    ).toContain('route-covered d');
    expect(codes(route('a', all(keyword('exact', 'lock'), keyword('begins', 'gate'))), route('z', all()))).toEqual([
      'route-contradicts-itself a',
    ]);
  });

  test('one that goes on, or is off, keeps nobody from anything', () => {
    expect(codes(route('a', all(), { goesOn: true }), route('z', all()))).toEqual([]);
    expect(codes(route('a', all(), { off: true }), route('z', all()))).toEqual([]);
  });

  test('a keyword in two routes that may meet is worth attention; in two that cannot, it is not', () => {
    const over = (id: string): Condition => ({ on: 'channel', ids: [id] });
    expect(
      codes(
        route('a', all(keyword('begins', 'Lock'), { on: 'media', has: true })),
        route('b', all(keyword('contains', 'LOCK'))),
        route('z', all()),
      ),
    ).toEqual(['keyword-shared b']);
    expect(
      codes(
        route('a', all(keyword('begins', 'lock'), over('x'))),
        route('b', all(keyword('begins', 'lock'), over('y'))),
        route('z', all()),
      ),
    ).toEqual([]);
  });

  test('a channel nobody routes is named, and one that may be taken is not', () => {
    const channels = [
      { id: 'harbour', name: 'Harbour desk' },
      { id: 'short', name: 'Short code' },
    ];
    const only = route('a', all({ on: 'channel', ids: ['harbour'] }));
    expect(examineRoutes(set(only), channels)).toMatchObject([
      { code: 'channel-without-route', problem: 'No route takes what comes in over Short code.' },
    ]);
    const maybe = route('b', all(keyword('exact', 'lock')));
    expect(examineRoutes(set(only, maybe), channels).map(({ code }) => code)).toEqual(['catch-all-missing']);
  });

  test('nothing that takes the rest, no routes at all, a broken pattern', () => {
    expect(codes(route('a', all(keyword('exact', 'lock'))))).toEqual(['catch-all-missing']);
    expect(codes()).toEqual(['no-routes']);
    expect(codes(route('a', all(keyword('pattern', '('))), route('z', all()))).toEqual(['pattern-broken a']);
    expect(codes(route('a', all(keyword('contains', ' '))), route('z', all()))).toContain('keyword-empty a');
  });
});

test('steps that need what is not there are named', () => {
  const steps: RouteStep[] = [
    {
      do: 'branch',
      cases: [
        {
          when: all(),
          steps: [{ do: 'reply', template: 't', mapping: { lock: { from: 'constant', value: 'North lock' } } }],
        },
      ],
      otherwise: [{ do: 'reply', text: ' ' }],
    },
    { do: 'tell', app: 'books' },
    { do: 'stop' },
    { do: 'close' },
  ];
  const around = {
    silent: [{ id: 'short', name: 'Short code' }],
    templateProblems: { t: 'passage-booked is in review.' },
    templateVariables: { t: ['lock', 'time'] },
    problems: { books: 'Lockbook is switched off.' },
  };
  const found = (when: Group) =>
    examineSteps(set(route('a', when, { steps })), around).map(({ code, severity }) => `${code} ${severity}`);
  expect(found(all({ on: 'channel', ids: ['short'] }))).toEqual([
    'reply-one-way error',
    'step-template error',
    'step-unmapped error',
    'reply-one-way error',
    'step-empty error',
    'step-cannot error',
    'steps-after-stop attention',
  ]);
  expect(found(all({ on: 'channel', ids: ['harbour'] }))).not.toContain('reply-one-way error');
});

test('a route that answers whatever is said may answer a machine', () => {
  const answers: RouteStep[] = [{ do: 'reply', text: 'Thank you.' }];
  const nothing = { silent: [], templateProblems: {}, templateVariables: {}, problems: {} };
  const found = (when: Group) =>
    examineSteps(set(route('a', when, { steps: answers })), nothing).map(({ code }) => code);
  expect(found(all({ on: 'hours', id: 'h', open: false }))).toEqual(['reply-may-echo']);
  expect(found(all({ on: 'conversation', states: ['new'] }))).toEqual([]);
});

describe('in words', () => {
  test.each<[Group, string]>([
    [all(), 'always'],
    [{ match: 'any', of: [] }, 'never'],
    [
      all({ on: 'channel', ids: ['Harbour desk'] }, keyword('contains', 'LOCK'), { on: 'sender', known: false }),
      'it comes in over Harbour desk and it contains the word “LOCK” and the sender is not a contact',
    ],
    [
      all(
        { on: 'media', has: true },
        { match: 'any', of: [keyword('exact', 'a', 'b'), { on: 'hours', id: 'Desk', open: false }] },
      ),
      'it comes with a file and (it says exactly “a” or “b” or Desk is closed)',
    ],
    [{ match: 'none', of: [{ on: 'tag', tag: 'crew', has: true }] }, 'not (the sender has the tag crew)'],
  ])('%#', (group, words) => expect(groupWords(group, BARE_NAMES)).toBe(words));

  test('steps and times', () => {
    expect(stepWords({ do: 'assign', whom: { to: 'turn', name: 'keepers' } }, BARE_NAMES)).toBe(
      'assign it to the people of keepers in turn',
    );
    expect([1, 45, 60, 180, 1440, 2880].map(minutesWords)).toEqual([
      'a minute',
      '45 minutes',
      'an hour',
      '3 hours',
      'a day',
      '2 days',
    ]);
  });
});
