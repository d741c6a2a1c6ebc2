import { expect, test } from 'vitest';
import type { RouteSet } from '../routing/route';
import { deliveryTest } from './deliveryTest';
import { draftAgainst, suggestTests, type TestableInstallation } from './suggest';

const INES = '+447700900123';
const route = (id: string, words: string[], more: object = {}) => ({
  id,
  name: id,
  when: {
    match: 'all' as const,
    of: words.length > 0 ? [{ on: 'keyword' as const, way: 'begins' as const, words }] : [],
  },
  steps: [{ do: 'tell' as const, app: 'app_1' }],
  goesOn: false,
  stopsOnReply: false,
  off: false,
  ...more,
});
const house = (set: RouteSet): TestableInstallation => ({
  now: 0,
  channels: [
    { id: 'chn_1', name: 'Harbour desk', kind: 'sms-http', hears: true, speaks: true },
    { id: 'chn_2', name: 'Notices', kind: 'sms-http', hears: false, speaks: true },
  ],
  apps: [{ id: 'app_1', name: 'Lockbook' }],
  hooks: [{ id: 'hok_1', name: 'Confirmed', phone: INES, record: '{"mobile":"+447700900123"}' }],
  systems: [],
  set,
  phones: [INES],
});
const SET: RouteSet = {
  hours: [],
  routes: [
    route('Locks', ['lock'], { steps: [{ do: 'reply', text: 'Booked for {{ contact.name }}' }] }),
    route('Never reached', ['lock tern']),
    route('Rest', []),
  ],
};

test('a test for each route that can be reached, each hook, and each channel no other test touches', () => {
  const suggested = suggestTests(house(SET), []);
  expect(suggested.map(({ name }) => name)).toEqual([
    'Locks: “lock” on Harbour desk',
    'Rest: “Windgap test” on Harbour desk',
    'A record to “Confirmed”',
    'Outbound from Notices',
  ]);
  for (const { content } of suggested) expect(deliveryTest.safeParse(content).success).toBe(true);
  expect(suggested[0]?.content.expectations).toMatchObject([
    { expect: 'routed', route: 'Locks' },
    { expect: 'arrives', way: 'contains', text: 'Booked for' },
    { expect: 'once' },
  ]);
});

test('what a test covers is not suggested again, and without a handset nothing is', () => {
  const kept = suggestTests(house(SET), []).map(({ content }) => content);
  expect(suggestTests(house(SET), kept)).toEqual([]);
  expect(suggestTests({ ...house(SET), phones: [] }, [])).toEqual([]);
});

test('a draft against the tests that guard: only those that would go elsewhere', () => {
  const guards = suggestTests(house(SET), []).map(({ name, content }) => ({ id: name, name, content }));
  expect(draftAgainst(SET, guards, 0)).toEqual([]);
  const turned: RouteSet = { ...SET, routes: [route('Rest', []), ...SET.routes.slice(0, 1)] };
  expect(draftAgainst(turned, guards, 0)).toEqual([
    { id: 'Locks: “lock” on Harbour desk', name: 'Locks: “lock” on Harbour desk', would: '“Rest”' },
  ]);
});
