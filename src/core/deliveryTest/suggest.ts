/** Tests for every path that no test covers yet, ready to be kept. Pure: the installation in, tests out. */
import type { ChannelKind } from '../connect/channelKinds';
import type { Arrival } from '../routing/arrival';
import type { Condition } from '../routing/conditions';
import { compileSet, decide } from '../routing/decide';
import type { Route, RouteSet } from '../routing/route';
import { coverageOf, type DeliveryTest, type Expectation } from './deliveryTest';

export interface TestableInstallation {
  now: number;
  channels: readonly { id: string; name: string; kind: ChannelKind; hears: boolean; speaks: boolean }[];
  apps: readonly { id: string; name: string }[];
  /** With a record of theirs whose phone is a test phone, where one can be made. */
  hooks: readonly { id: string; name: string; phone: string; record: string }[];
  systems: readonly { id: string; name: string; answers: boolean; event: 'missed' | 'incoming' | 'voicemail-box' }[];
  set: RouteSet;
  /** Handsets that can write, in E.164. */
  phones: readonly string[];
}

export interface SuggestedTest {
  name: string;
  content: DeliveryTest;
}

const WITHIN = 20;

export function suggestTests(installation: TestableInstallation, existing: readonly DeliveryTest[]): SuggestedTest[] {
  const [phone] = installation.phones;
  if (!phone) return [];
  const covered = new Set(existing.flatMap((test) => [...coverageOf(test)]));
  const missing = <Item extends { id: string }>(items: readonly Item[]) => items.filter(({ id }) => !covered.has(id));
  const hearing = installation.channels.filter(({ hears }) => hears);
  const suggested = [
    ...missing(installation.set.routes.filter(({ off }) => !off)).flatMap(
      (route) => ofRoute(installation, route, phone) ?? [],
    ),
    ...missing(installation.hooks).map(ofHook),
    ...missing(installation.systems).flatMap((system) => (system.answers ? [ofCall(system, phone)] : [])),
  ];
  const reached = new Set([...covered, ...suggested.flatMap(({ content }) => [...coverageOf(content)])]);
  return [
    ...suggested,
    ...hearing.filter(({ id }) => !reached.has(id)).flatMap((channel) => ofHearing(installation, channel, phone) ?? []),
    ...installation.channels
      .filter(({ id, hears, speaks }) => speaks && !hears && !reached.has(id))
      .map((channel) => ofSpeaking(channel, phone)),
  ];
}

/** A text that this route would take, and what its steps then show. */
function ofRoute(installation: TestableInstallation, route: Route, phone: string): SuggestedTest | undefined {
  const channel = channelFor(installation, route);
  if (!channel) return undefined;
  const text = `${wordFor(route)} {{ run }}`.trim();
  const decision = decide(compileSet(installation.set), arrival(installation, channel.id, text));
  if (decision.kind !== 'decided' || !decision.routes.some(({ id }) => id === route.id)) return undefined;
  return {
    name: `${route.name}: “${wordFor(route)}” on ${channel.name}`,
    content: {
      stimulus: { kind: 'text', phone, channel: channel.id, text },
      expectations: [{ expect: 'routed', route: route.id }, ...shownBy(route, phone)],
      times: 1,
    },
  };
}

function shownBy(route: Route, phone: string): Expectation[] {
  const told = route.steps.find((step) => step.do === 'tell');
  const reply = route.steps[0]?.do === 'reply' && 'text' in route.steps[0] ? route.steps[0].text : undefined;
  const fixed = reply?.split('{{')[0]?.trim().slice(0, 40);
  return [
    ...(told ? [{ expect: 'told' as const, app: told.app, within: WITHIN, field: '', value: '' }] : []),
    ...(reply
      ? [
          {
            expect: 'arrives' as const,
            phone,
            within: WITHIN,
            way: fixed ? ('contains' as const) : ('anything' as const),
            text: fixed ?? '',
          },
          { expect: 'once' as const, during: 8 },
        ]
      : []),
  ];
}

function channelFor({ channels }: TestableInstallation, { when }: Route) {
  const named = when.of.flatMap((each) => ('on' in each && each.on === 'channel' ? each.ids : []));
  return channels.find(({ id, hears }) => hears && (named.length === 0 || named.includes(id)));
}

function wordFor({ when }: Route): string {
  const keyword = when.of.find(
    (each): each is Extract<Condition, { on: 'keyword' }> => 'on' in each && each.on === 'keyword',
  );
  return keyword && keyword.way !== 'pattern' ? (keyword.words[0] ?? 'Windgap test') : 'Windgap test';
}

function arrival({ now }: Pick<TestableInstallation, 'now'>, channel: string, text: string): Arrival {
  return {
    text,
    channel,
    at: now,
    known: true,
    tags: [],
    attributes: {},
    media: false,
    conversation: 'open',
    open: {},
  };
}

function ofHearing(
  installation: TestableInstallation,
  { id, name }: TestableInstallation['channels'][number],
  phone: string,
): SuggestedTest | undefined {
  const text = 'Windgap test {{ run }}';
  const decision = decide(compileSet(installation.set), arrival(installation, id, text));
  if (decision.kind !== 'decided') return undefined;
  const [route] = decision.routes;
  return {
    name: `Inbound to ${name}`,
    content: {
      stimulus: { kind: 'text', phone, channel: id, text },
      expectations: [{ expect: 'routed', route: route?.id ?? '' }, ...(route ? shownBy(route, phone) : [])],
      times: 1,
    },
  };
}

function ofSpeaking({ id, name }: TestableInstallation['channels'][number], phone: string): SuggestedTest {
  return {
    name: `Outbound from ${name}`,
    content: {
      stimulus: { kind: 'order', channel: id, phone, text: 'Windgap test {{ run }}' },
      expectations: [
        { expect: 'arrives', phone, within: WITHIN, way: 'contains', text: 'Windgap test' },
        { expect: 'delivered', within: WITHIN * 2 },
        { expect: 'once', during: 8 },
      ],
      times: 1,
    },
  };
}

function ofHook({ id, name, phone, record }: TestableInstallation['hooks'][number]): SuggestedTest {
  return {
    name: `A record to “${name}”`,
    content: {
      stimulus: { kind: 'hook', hook: id, record },
      expectations: [
        { expect: 'arrives', phone, within: WITHIN, way: 'anything', text: '' },
        { expect: 'delivered', within: WITHIN * 2 },
        { expect: 'once', during: 8 },
      ],
      times: 1,
    },
  };
}

function ofCall({ id, name, event }: TestableInstallation['systems'][number], phone: string): SuggestedTest {
  return {
    name: `${event === 'missed' ? 'A missed call' : 'A call'} at ${name}`,
    content: {
      stimulus: { kind: 'call', system: id, phone, event },
      expectations: [{ expect: 'arrives', phone, within: WITHIN, way: 'anything', text: '' }],
      times: 1,
    },
  };
}

/** What a draft would do with the texts of tests that guard publishing: those that would go elsewhere. */
export function draftAgainst(
  set: RouteSet,
  tests: readonly { id: string; name: string; content: DeliveryTest }[],
  now: number,
): { id: string; name: string; would: string }[] {
  const compiled = compileSet(set);
  return tests.flatMap(({ id, name, content: { stimulus, expectations } }) => {
    const expected = expectations.find((each) => each.expect === 'routed');
    if (stimulus.kind !== 'text' || expected?.expect !== 'routed') return [];
    const decision = decide(compiled, arrival({ now }, stimulus.channel, stimulus.text));
    if (decision.kind !== 'decided') return [];
    const right =
      expected.route === ''
        ? decision.routes.length === 0
        : decision.routes.some((route) => route.id === expected.route);
    const would = decision.routes.map((route) => `“${route.name}”`).join(', then ') || 'no route';
    return right ? [] : [{ id, name, would }];
  });
}
