/** Routes at work over the wire: decided, asked, answered, published, and stopped where answers echo. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Route, RouteSet, RouteStep } from '../src/core/routing/route';
import { createApp } from '../src/operations/apps/apps';
import { keepByHand } from '../src/operations/apps/records/recordSync';
import { addRecordAction, connectRecords } from '../src/operations/apps/records/records';
import { SYSTEM } from '../src/operations/context/actor';
import { getThread, listConversations } from '../src/operations/conversations/conversations';
import { finishTodo, listTodos } from '../src/operations/conversations/todos';
import { getTrail } from '../src/operations/log/trail';
import { addPerson } from '../src/operations/people/people';
import { getRoutes, publishDraft, returnToRevision, saveDraft } from '../src/operations/routes/routes';
import { beginReplay, getReplay } from '../src/operations/routing/replays';
import { examineSet } from '../src/operations/routing/routePages';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { all, begins, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let towpath: string;
let weir: string;
let person: string;
let ticket: string;

const reply = (text: string): RouteStep => ({ do: 'reply', text });

const publish = (routes: Route[], hours: RouteSet['hours'] = []) => publishRoutes(house.ctx, routes, hours);

const says = (number: string, text: string) => house.bench.type(number, mossgate.channel.address, text);
const textsOn = async (number: string) => (await house.bench.received(number)).map(({ text }) => text);
const arrives = (number: string, text: string) =>
  until(`${text} arrives`, async () => (await textsOn(number)).some((each) => each.includes(text)));
const message = async (text: string) => {
  await until('it came in', async () => house.ctx.store.messages.one({ text, direction: 'in' }));
  return (await house.ctx.store.messages.one({ text, direction: 'in' }))?.id ?? '';
};
const routingOf = async (text: string) => {
  const id = await message(text);
  await until('it is decided', async () => {
    const row = await house.ctx.store.messageRoutings.one({ message_id: id });
    return row && row.outcome !== 'asking';
  });
  return house.ctx.store.messageRoutings.one({ message_id: id });
};

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  const { ctx, world } = house;
  towpath = (await createApp(ctx, SYSTEM, { name: 'Towpath Records', description: '' })).id;
  weir = (await createApp(ctx, SYSTEM, { name: 'Weir Desk', description: '' })).id;
  await connectRecords(ctx, SYSTEM, {
    appId: towpath,
    connector: 'towpath',
    credentials: { address: `http://127.0.0.1:${world.ports.towpath}/v3`, token: world.towpath.tokens[0]?.token ?? '' },
  });
  await connectRecords(ctx, SYSTEM, {
    appId: weir,
    connector: 'weirdesk',
    credentials: { address: `http://127.0.0.1:${world.ports.weir}`, desk: world.weir.desk, key: world.weir.key },
  });
  const initial = (fields: { name: string; initial?: string }[]) =>
    Object.fromEntries(fields.map((field) => [field.name, field.initial ?? '']));
  const typeOf = (connector: string, id: string) =>
    ctx.apps.get(connector).records.find((each) => each.id === id) as { fields: { name: string; initial?: string }[] };
  person = (
    await addRecordAction(ctx, SYSTEM, towpath, {
      name: 'A person of who writes',
      record: 'contact',
      way: 'upsert',
      fields: initial(typeOf('towpath', 'contact').fields),
      byRoute: true,
    })
  ).id;
  ticket = (
    await addRecordAction(ctx, SYSTEM, weir, {
      name: 'A ticket of what they ask',
      record: 'ticket',
      way: 'create-if-none',
      fields: initial(typeOf('weirdesk', 'ticket').fields),
      byRoute: true,
    })
  ).id;
});
afterAll(() => house.stop());

describe('what is published decides, and nothing else', () => {
  test('a draft takes no message; published, it does; and the trail says why', async () => {
    const { ctx } = house;
    const routes = [
      route('lock', all(begins('lock')), [
        reply('Lock keepers have it: {{ message.text }}'),
        { do: 'tag', tag: 'Lock', remove: false },
      ]),
      route('rest', all(), [{ do: 'tell', app: mossgate.appId }]),
    ];
    const { changedAt } = await saveDraft(ctx, SYSTEM, { routes, hours: [] }, undefined);
    await says(INES, 'lock before it is published');
    expect((await routingOf('lock before it is published'))?.routes).toMatchObject([
      { name: 'Everything to the shared desk' },
    ]);

    await publishDraft(ctx, SYSTEM, { note: 'Locks', seen: changedAt });
    await says(INES, 'LOCK Heron Staircase 14:20');
    await arrives(INES, 'Lock keepers have it: LOCK Heron');
    const text = await message('LOCK Heron Staircase 14:20');
    const trail = async () => (await getTrail(ctx, SYSTEM, text)).legs;
    const taken = async () => (await trail())[0]?.hops.find(({ place }) => place === 'Route');
    await until('the trail says it is tagged', async () => (await taken())?.notes.includes('Step: Tagged lock'));
    expect(await ctx.store.contactTags.one({ tag: 'lock' })).toBeDefined();
    expect(await taken()).toMatchObject({
      what: 'Handled by “lock”',
      state: 'proven',
      notes: expect.arrayContaining([
        'Because it begins with “lock”: lock heron staircase 14 20',
        `Step: Answered ${INES}`,
      ]),
    });
    expect((await trail())[1]?.hops[0]).toMatchObject({ place: 'lock', what: 'Sent by an automation' });
    // The app was told of the other one alone.
    const { events } = await house.bench.lockbook();
    const told = events.flatMap(({ type, message: m }) => (type === 'windgap.message.received' ? [m?.text] : []));
    expect(told).toEqual(['lock before it is published']);
  });

  test('nobody overwrites another’s draft, and a revision can be returned to', async () => {
    const { ctx } = house;
    const { published } = await getRoutes(ctx, SYSTEM);
    const { changedAt } = await saveDraft(ctx, SYSTEM, { routes: [], hours: [] }, undefined);
    await expect(saveDraft(ctx, SYSTEM, { routes: [], hours: [] }, changedAt - 1)).rejects.toThrow(/changed the draft/);
    await expect(publishDraft(ctx, SYSTEM, { note: '', seen: changedAt - 1 })).rejects.toThrow(/in between/);
    await publishDraft(ctx, SYSTEM, { note: 'Nothing', seen: changedAt });
    await says(INES, 'Nobody takes this');
    expect(await routingOf('Nobody takes this')).toMatchObject({ outcome: 'unrouted', cause: 'no-route' });
    const trail = await getTrail(ctx, SYSTEM, await message('Nobody takes this'));
    expect(trail.legs[0]?.hops.find(({ place }) => place === 'Route')?.failure).toMatchObject({ code: 'no-route' });

    const { number } = await returnToRevision(ctx, SYSTEM, published.number);
    expect((await getRoutes(ctx, SYSTEM)).published).toMatchObject({ number, set: published.set });
    await says(INES, 'lock once more');
    expect((await routingOf('lock once more'))?.routes).toMatchObject([{ id: 'lock' }]);
  });
});

test('asked, answered, asked again too late: each branch goes its way, and the answer is no message of its own', async () => {
  const { ctx } = house;
  await publish([
    route('book', all(begins('book')), [
      {
        do: 'ask',
        text: 'Which lock, north or south?',
        keep: 'lock',
        answers: [
          { words: ['north'], steps: [reply('North it is, {{ contact.name | default: "skipper" }}.')] },
          { words: ['south'], steps: [reply('South is shut.'), { do: 'stop' }] },
        ],
        otherwise: [reply('We wrote down {{ answers.lock }}.')],
        minutes: 5,
        late: [reply('Nobody answered.')],
      },
      { do: 'attribute', name: 'asked by', value: '{{ message.from }}' },
    ]),
    route('rest', all(), []),
  ]);
  await says(INES, 'BOOK please');
  await arrives(INES, 'Which lock');
  await says(INES, 'The North one!');
  await arrives(INES, 'North it is');
  expect(await routingOf('The North one!')).toMatchObject({ outcome: 'answer', routes: [{ id: 'book' }] });
  const contact = (await ctx.store.identities.one({ kind: 'phone', value: INES }))?.contact_id ?? '';
  await until('the step after it is done', async () =>
    ctx.store.contactAttributes.one({ contact_id: contact, name: 'asked by' }),
  );
  expect(await ctx.store.contactAttributes.one({ contact_id: contact, name: 'lock' })).toMatchObject({
    value: 'The North one!',
  });

  await says(TOMAS, 'book');
  await arrives(TOMAS, 'Which lock');
  await says(TOMAS, 'The eastern');
  await arrives(TOMAS, 'We wrote down The eastern.');
  await says(TOMAS, 'book again');
  await until(
    'it asked twice',
    async () => (await textsOn(TOMAS)).filter((each) => each.startsWith('Which lock')).length === 2,
  );
  await says(TOMAS, 'south');
  await arrives(TOMAS, 'South is shut.');
  const [last] = await ctx.store.runs.all(
    { source: 'route', source_id: 'book' },
    { order: [['id', 'DESC']], limit: 1 },
  );
  await until('it ended', async () => (await ctx.store.runs.one({ id: last?.id ?? '' }))?.state === 'done');
  expect((await ctx.store.runs.one({ id: last?.id ?? '' }))?.results.map(({ said }) => said).filter(Boolean)).toEqual([
    'They answered “south”',
    `Answered ${TOMAS}`,
  ]);
});

describe('by open tickets', () => {
  const byTickets = () => [
    route('several', all({ on: 'open', app: weir, record: 'ticket', count: 'several' }), [
      reply('You have several open.'),
    ]),
    route('silent desk', all({ on: 'open', app: weir, record: 'ticket', count: 'unknown' }), [
      reply('The desk is down; we call you.'),
    ]),
    route('stranger', all({ on: 'sender', known: false }), [
      { do: 'record', action: person },
      { do: 'record', action: ticket },
      reply('Your ticket is made.'),
    ]),
    route('rest', all(), []),
  ];

  test('a stranger becomes one person and one ticket, whatever they send at once', async () => {
    await publish(byTickets());
    const stranger = '+447700900321';
    await house.bench.addHandset(stranger);
    await Promise.all([says(stranger, 'Tree across the cut'), says(stranger, 'at bridge 41')]);
    await arrives(stranger, 'Your ticket is made.');
    await until(
      'both are decided',
      async () => (await routingOf('at bridge 41')) && (await routingOf('Tree across the cut')),
    );
    const { people } = await house.bench.read<{ people: { mobile: string }[] }>('/towpath');
    const { tickets } = await house.bench.read<{ tickets: { requester: string }[] }>('/weir');
    expect(people.filter(({ mobile }) => mobile === stranger)).toHaveLength(1);
    expect(tickets.filter(({ requester }) => requester === stranger)).toHaveLength(1);
    // What only routes use is proven by them.
    for (const subject_id of [person, ticket])
      expect(await house.ctx.store.proofs.all({ subject_id })).toMatchObject([{ hop: 'call-out', state: 'proven' }]);
  });

  test('the app is asked first; what it said is kept; and when it is down that has its own route', async () => {
    const { ctx } = house;
    const asked = await routingOf('Tree across the cut');
    expect(asked?.facts.open).toEqual({ [`${weir} ticket`]: 0 });
    await house.bench.faults({ weir: { unreachable: true } }).catch(() => undefined);
    const account = await ctx.store.appAccounts.one({ app_id: weir });
    await ctx.store.write((unit) =>
      unit.appAccounts.change(
        { app_id: weir },
        {
          sealed_credentials: ctx.sealer.seal({
            address: 'http://127.0.0.1:9',
            desk: house.world.weir.desk,
            key: house.world.weir.key,
          }),
        },
      ),
    );
    await says(TOMAS, 'Anybody there?');
    await arrives(TOMAS, 'The desk is down');
    expect(await routingOf('Anybody there?')).toMatchObject({
      cause: 'look-up-failed',
      routes: [{ id: 'silent desk' }],
      facts: { open: { [`${weir} ticket`]: 'failed' } },
    });
    await ctx.store.write((unit) =>
      unit.appAccounts.change({ app_id: weir }, { sealed_credentials: account?.sealed_credentials }),
    );
  });

  test('a lead and a contact of one person, and what would be done twice, are named before it is published', async () => {
    const { ctx } = house;
    const lead = await addRecordAction(ctx, SYSTEM, towpath, {
      name: 'A lead of each text',
      record: 'lead',
      way: 'create',
      fields: {
        full_name: '{{ contact.name | default: message.from }}',
        mobile: '{{ message.from }}',
        wants: '{{ message.text }}',
      },
    });
    const set = { routes: byTickets(), hours: [] };
    const codes = (await examineSet(ctx, SYSTEM, set)).map(({ code, route: id }) => `${code} ${id ?? ''}`);
    expect(codes).toContain('records-of-two-kinds stranger');
    const twice = { ...set, routes: [route('again', all(), [{ do: 'record', action: lead.id }])] };
    expect((await examineSet(ctx, SYSTEM, twice)).map(({ problem }) => problem).join()).toMatch(
      /done for every message already/,
    );
    await ctx.store.write((unit) => unit.recordActions.change({ id: lead.id }, { disabled_at: 1 }));
  });
});

test('somebody at the desk has a record made of what was written last', async () => {
  const { ctx } = house;
  const [conversation] = await listConversations(ctx, SYSTEM, INES);
  const before = (await house.bench.read<{ tickets: { requester: string }[] }>('/weir')).tickets.filter(
    ({ requester }) => requester === INES,
  ).length;
  const { runId } = await keepByHand(ctx, SYSTEM, { conversationId: conversation?.id ?? '', actionId: ticket });
  await until('it is made', async () => (await ctx.store.runs.one({ id: runId }))?.state === 'done');
  const after = (await house.bench.read<{ tickets: { requester: string }[] }>('/weir')).tickets.filter(
    ({ requester }) => requester === INES,
  ).length;
  expect(after).toBe(Math.max(1, before));
  expect((await getThread(ctx, SYSTEM, conversation?.id ?? '')).notes.at(-1)?.text).toBe(
    'had “A ticket of what they ask” done',
  );
});

test('what follows a wait is given up when the person writes, where the route says so', async () => {
  const { ctx } = house;
  await publish([
    route(
      'remind',
      all(begins('remind')),
      [reply('We will ask again.'), { do: 'wait', minutes: 60 }, reply('Still there?')],
      { stopsOnReply: true },
    ),
    route('rest', all(), []),
  ]);
  await says(INES, 'remind me');
  await arrives(INES, 'We will ask again.');
  const [run] = await until('it waits', async () => {
    const rows = await ctx.store.runs.all({ source_id: 'remind', state: 'waiting' });
    return rows.length > 0 ? rows : undefined;
  });
  await says(INES, 'never mind');
  await until('it is given up', async () => (await ctx.store.runs.one({ id: run?.id ?? '' }))?.state === 'cancelled');
});

test('a word about being written to goes before any route', async () => {
  await publish([
    route('stop', all({ on: 'keyword', way: 'exact', words: ['stop'] }), [reply('You said stop.')]),
    route('rest', all(), []),
  ]);
  await says(TOMAS, 'STOP');
  expect(await routingOf('STOP')).toMatchObject({ outcome: 'consent', routes: [] });
  await says(TOMAS, 'START');
  expect(await routingOf('START')).toMatchObject({ outcome: 'consent' });
  expect((await textsOn(TOMAS)).filter((text) => text.includes('You said stop'))).toEqual([]);
});

test('conversations are opened by who writes, given to people, and closed by routes', async () => {
  const { ctx } = house;
  await publish([
    route('team', all(begins('crew')), [{ do: 'assign', whom: { to: 'team', name: 'Keepers' } }]),
    route('done', all(begins('thanks')), [{ do: 'close' }]),
    route('nobody', all(begins('turn')), [{ do: 'assign', whom: { to: 'turn', name: 'Nobody' } }]),
  ]);
  await says(INES, 'crew wanted');
  const [conversation] = await listConversations(ctx, SYSTEM, INES);
  const row = () => ctx.store.conversations.one({ id: conversation?.id ?? '' });
  await until('it is given to the team', async () => (await row())?.team === 'Keepers');
  await says(INES, 'thanks');
  await until('it is closed', async () => (await row())?.state === 'closed');
  expect((await getThread(ctx, SYSTEM, conversation?.id ?? '')).messages.at(-1)?.text).toBe('thanks');
  await says(INES, 'turn');
  await until('it is open again', async () => (await row())?.state === 'open');
  expect((await routingOf('turn'))?.facts.conversation).toBe('closed');
  await until('the step failed', async () => ctx.store.runs.one({ source_id: 'nobody', state: 'failed' }));
  const trail = await getTrail(ctx, SYSTEM, await message('turn'));
  expect(trail.legs[0]?.hops.find(({ place }) => place === 'Route')?.failure?.explanation).toBe(
    'Nobody is in the team Nobody.',
  );
  const [todo, ...others] = await listTodos(ctx, SYSTEM);
  expect(others).toEqual([]);
  expect(todo).toMatchObject({
    conversationId: conversation?.id,
    why: expect.stringContaining('Nobody is in the team'),
  });
  await finishTodo(ctx, SYSTEM, todo?.id ?? '');
  await expect(finishTodo(ctx, SYSTEM, todo?.id ?? '')).rejects.toThrow(/done already/);
  expect(await listTodos(ctx, SYSTEM, true)).toHaveLength(1);
});

test('given to whoever owns the person’s record in the app, or to a to-do where that is nobody here', async () => {
  const { ctx } = house;
  const { id: jonas } = await addPerson(ctx, SYSTEM, {
    name: 'Jonas Wherry',
    email: 'jonas@mossgate.example',
    password: 'towpath at low water',
    role: 'agent',
  });
  await publish([route('owner', all(), [{ do: 'assign', whom: { to: 'owner', app: towpath, record: 'contact' } }])]);
  await says(INES, 'My keeper, please');
  const [conversation] = await listConversations(ctx, SYSTEM, INES);
  await until(
    'it is his',
    async () => (await ctx.store.conversations.one({ id: conversation?.id ?? '' }))?.assigned_to === jonas,
  );
  await says(TOMAS, 'And mine');
  const id = await message('And mine');
  await until('a person is asked', async () => ctx.store.todos.one({ ref: id }));
  expect((await ctx.store.todos.one({ ref: id }))?.why).toContain('does not say who owns the record');
});

test('a replay puts past messages to both, in the engine, and says what would move', async () => {
  const { ctx } = house;
  await publish([route('rest', all(), [])]);
  await says(INES, 'replayed lock');
  await says(INES, 'replayed other');
  await routingOf('replayed lock');
  await routingOf('replayed other');
  const total = await ctx.store.messages.count({ direction: 'in' });
  const { id } = await beginReplay(ctx, SYSTEM, {
    routes: [
      route('fresh', all({ on: 'keyword', way: 'contains', words: ['replayed'] }), []),
      route('rest', all(), []),
    ],
    hours: [],
  });
  await until('it is done', async () => (await getReplay(ctx, SYSTEM, id)).state === 'done');
  const { summary } = await getReplay(ctx, SYSTEM, id);
  expect(summary).toMatchObject({
    messages: total,
    same: total - 2,
    unknown: 0,
    groups: [{ before: ['rest'], after: ['fresh'], count: 2 }],
  });
  expect(summary?.groups[0]?.examples).toContain(await message('replayed lock'));
  await expect(beginReplay(ctx, SYSTEM, { routes: [{}] })).rejects.toThrow(/cannot be replayed/);
});

test('ten pairs that answer each other by themselves come to rest, with the cause in sight', async () => {
  const { ctx } = house;
  await publish([route('hello', all(), [reply('Thank you for your message. We answer as soon as we can.')])]);
  const numbers = Array.from({ length: 10 }, (_, index) => `+4477009004${String(index).padStart(2, '0')}`);
  for (const number of numbers) {
    await house.bench.addHandset(number);
    await house.bench.setHandset(number, { answersWith: 'I am on the water and read this tonight.' });
  }
  await Promise.all(numbers.map((number) => says(number, `Good morning from ${number}`)));
  const held = () => ctx.store.messageRoutings.count({ outcome: 'held' });
  await until('every pair is held', async () => (await held()) === 10);
  await settle(house);
  const counts = await Promise.all(numbers.map(async (number) => (await textsOn(number)).length));
  expect(counts).toEqual(numbers.map(() => 5));
  expect(await held()).toBe(10);
  const [row] = await ctx.store.messageRoutings.all({ outcome: 'held' }, { limit: 1 });
  const trail = await getTrail(ctx, SYSTEM, row?.message_id ?? '');
  expect(trail.legs[0]?.hops.find(({ place }) => place === 'Route')?.failure).toMatchObject({
    code: 'auto-reply-loop',
  });
});
