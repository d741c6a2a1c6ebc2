/** What frames every page: search over everything, and the counts of what needs attention. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { tagContacts } from '../src/operations/contacts/contactPages';
import type { Actor } from '../src/operations/context/actor';
import { SYSTEM } from '../src/operations/context/actor';
import { addTodo, finishTodo, finishTodos, listTodos } from '../src/operations/conversations/todos';
import { saveTest } from '../src/operations/deliveryTests/deliveryTests';
import { getAttention } from '../src/operations/shell/attention';
import { getInstallation, nameInstallation } from '../src/operations/shell/installation';
import { searchEverything } from '../src/operations/shell/search';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

const VIEWER: Actor = { kind: 'user', id: 'usr_v', name: 'Viewer', role: 'viewer' };
let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  await publishRoutes(house.ctx, [route('Everything for the office', all(), [])]);
  await house.bench.type(INES, mossgate.channel.address, 'Is the quay free at 50%?');
  await until('it came in', () => house.ctx.store.messages.one({ direction: 'in' }));
});
afterAll(() => house.stop());

const found = async (text: string, actor: Actor = SYSTEM) =>
  (await searchEverything(house.ctx, actor, text)).map(({ kind, href }) => `${kind} ${href.split('?')[0]}`);

test('a person by number however it is typed, with the conversation', async () => {
  const [conversation] = await house.ctx.store.conversations.all();
  for (const typed of ['07700 900123', '+44 7700 900 123', '7700900123']) {
    const hits = await found(typed);
    expect(hits).toContain(`conversation /route/conversations/${conversation?.id}`);
    expect(hits).toContain(`contact /compose/contacts/${conversation?.contact_id}`);
  }
});

test('a message by its id, with and without its prefix; channels, apps and routes by name', async () => {
  const message = await house.ctx.store.messages.one({ direction: 'in' });
  const id = message?.id ?? '';
  for (const typed of [id, id.replace('msg_', '').toLowerCase()])
    expect((await found(typed))[0]).toBe(`message /watch/messages/${id}`);
  expect(await found('harbour')).toContain(`channel /connect/channels/${mossgate.channel.id}`);
  expect(await found('lockb')).toContain(`app /apps/${mossgate.appId}`);
  expect((await found('for the OFFICE')).some((hit) => hit.startsWith('route /route/routes#'))).toBe(true);
});

test('wildcards and quotes are words like others; a single letter and nothing find nothing', async () => {
  for (const typed of ['', ' ', 'a']) expect(await found(typed)).toEqual([]);
  for (const typed of ['zz%', "zz'; DROP TABLE messages;--", '"zz'])
    expect(await found(typed)).toEqual(['message log /watch/messages']);
  expect(await house.ctx.store.messages.count()).toBeGreaterThan(0);
});

test('a viewer searches too, but finds no delivery test', async () => {
  const content = {
    stimulus: { kind: 'order', channel: mossgate.channel.id, phone: INES, text: 'Quayside' },
    expectations: [{ expect: 'delivered', within: 20 }],
  };
  await saveTest(house.ctx, SYSTEM, { name: 'Quayside proof', content, guardsPublishing: false });
  expect((await found('quayside')).some((hit) => hit.startsWith('delivery test'))).toBe(true);
  expect((await found('quayside', VIEWER)).some((hit) => hit.startsWith('delivery test'))).toBe(false);
  expect(await found('harbour', VIEWER)).toContain(`channel /connect/channels/${mossgate.channel.id}`);
});

test('unread conversations and open to-dos are counted, and no longer when they are done', async () => {
  const { ctx } = house;
  expect(await getAttention(ctx, SYSTEM)).toMatchObject({ unread: 1, todos: 0, kind: 'test', engine: true });
  await addTodo(ctx, SYSTEM, { title: 'Ring back' });
  expect((await getAttention(ctx, SYSTEM)).todos).toBe(1);
  const [todo] = await listTodos(ctx, SYSTEM);
  await finishTodo(ctx, SYSTEM, todo?.id ?? '');
  expect((await getAttention(ctx, SYSTEM)).todos).toBe(0);
});

test('the engine has not fallen silent because the clock was moved on', async () => {
  await until('the engine was heard', () => house.ctx.store.settings.one({ name: 'engine-seen' }));
  await house.bench.moveClock(86_400_000);
  expect((await getAttention(house.ctx, SYSTEM)).engine).toBe(true);
});

test('an installation is called by its host until it is named, and again when the name is taken away', async () => {
  const { ctx } = house;
  const host = new URL(ctx.config.publicUrl).host;
  expect(await getInstallation(ctx)).toMatchObject({ name: host, named: false, kind: 'test' });
  await nameInstallation(ctx, SYSTEM, ' Harbour office ');
  expect((await getAttention(ctx, VIEWER)).name).toBe('Harbour office');
  await expect(nameInstallation(ctx, VIEWER, 'Mine')).rejects.toThrow(/administrator/);
  await expect(nameInstallation(ctx, SYSTEM, 'x'.repeat(41))).rejects.toThrow(/too long/);
  await nameInstallation(ctx, SYSTEM, '');
  expect((await getInstallation(ctx)).name).toBe(host);
});

test('several at once: what is done already, merged away or unknown is left alone and not counted', async () => {
  const { ctx } = house;
  for (const title of ['One', 'Two', 'Three']) await addTodo(ctx, SYSTEM, { title });
  const ids = (await listTodos(ctx, SYSTEM)).map(({ id }) => id);
  await finishTodo(ctx, SYSTEM, ids[0] as string);
  expect(await finishTodos(ctx, SYSTEM, [...ids, 'tdo_unknown'])).toBe(ids.length - 1);
  expect(await listTodos(ctx, SYSTEM)).toEqual([]);
  const contact = (await ctx.store.contacts.all())[0]?.id as string;
  const tag = (has: boolean, ids: string[]) => tagContacts(ctx, SYSTEM, { ids, tag: ' Spring Notice ', has });
  expect(await tag(true, [contact, contact, 'con_unknown'])).toBe(1);
  expect(await tag(true, [contact])).toBe(0);
  expect(await ctx.store.contactTags.all({ contact_id: contact })).toEqual([
    { contact_id: contact, tag: 'spring notice' },
  ]);
  expect(await tag(false, [contact])).toBe(1);
  await expect(tagContacts(ctx, VIEWER, { ids: [contact], tag: 'x', has: true })).rejects.toThrow(/agent/);
});
