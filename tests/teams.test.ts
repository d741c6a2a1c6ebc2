/**
 * What belongs to a team that keeps it to itself, tried on the built application: every page, address, action, export,
 * stream and API operation is opened as somebody of another team, and nowhere may a word of it be read.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { createApp } from '../src/operations/apps/apps';
import { createHook } from '../src/operations/apps/hooks/hooks';
import { changeSubscription } from '../src/operations/apps/webhooks/subscriptions';
import { openChannel } from '../src/operations/channels/channels';
import { type Actor, SCOPES, SYSTEM } from '../src/operations/context/actor';
import { inboundUrl } from '../src/operations/context/channelAddresses';
import { getThread, listConversations } from '../src/operations/conversations/conversations';
import { giveConversation } from '../src/operations/conversations/conversationWork';
import { exportMessages } from '../src/operations/log/messageLog';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { addPerson, changePerson } from '../src/operations/people/people';
import type { Person } from '../src/operations/people/person';
import { actorOf } from '../src/operations/people/sessions';
import { giveToTeam, limitAdministrators, setTeam } from '../src/operations/people/teams';
import { searchEverything } from '../src/operations/shell/search';
import { API, type Operation } from '../src/web/api/catalogue';
import { connectMossgate, INES, type Mossgate, postSigned, TOMAS, textIn } from './harness/mossgate';
import { type Installation, ROOT, startInstallation } from './harness/processes';
import { cookieOf } from './harness/session';
import { until } from './harness/until';

/** Words that stand in what belongs to the team, and nowhere else. */
const CANARIES = ['Quillfeather', 'Sablefish', 'zymurgy', 'Harquebus'];
const PASSWORD = 'towpath at low water';

let callers = 0;
const caller = () => {
  callers += 1;
  return { 'x-forwarded-for': `198.51.${100 + (callers >> 8)}.${callers & 255}` };
};

let house: Installation;
let mossgate: Mossgate;
let hidden: {
  channelId: string;
  appId: string;
  hookId: string;
  messageId: string;
  conversationId: string;
  inboundId: string;
};
let shared: { messageId: string; conversationId: string };
const people: Record<string, Person> = {};

beforeAll(async () => {
  // Each request comes from an address of its own: whoever is refused over and over waits.
  house = await startInstallation({ env: { WINDGAP_TRUSTED_PROXIES: '127.0.0.1' } });
  const { ctx } = house;
  mossgate = await connectMossgate(house);
  people.owner = await createFirstOwner(ctx, { name: 'Maren', email: 'maren@mossgate.example', password: PASSWORD });
  for (const [name, role] of [
    ['admin', 'administrator'],
    ['member', 'agent'],
    ['other', 'agent'],
    ['viewer', 'viewer'],
  ] as const)
    people[name] = await addPerson(ctx, SYSTEM, {
      name: `The ${name}`,
      email: `${name}@mossgate.example`,
      password: PASSWORD,
      role,
    });
  await changePerson(ctx, SYSTEM, people.member?.id ?? '', { teams: 'Quiet desk', mayStart: true });
  await changePerson(ctx, SYSTEM, people.other?.id ?? '', { teams: 'Loud desk', mayStart: true });
  hidden = await setUpHidden();
  shared = await received(mossgate.channel.address, mossgate.inboundUrl, TOMAS, 'When is the gate open?');
});
afterAll(() => house.stop());

async function setUpHidden(): Promise<typeof hidden> {
  const { ctx } = house;
  const number = (await ctx.store.numbers.all({ account_id: mossgate.accountId })).find(
    ({ address }) => address === '+447700900811',
  );
  const { id: channelId } = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Quillfeather line' });
  const { id: appId } = await createApp(ctx, SYSTEM, { name: 'Sablefish', description: 'Of the quiet desk' });
  const { id: hookId } = await createHook(ctx, SYSTEM, { appId, name: 'Harquebus hook' });
  await setTeam(ctx, SYSTEM, { name: 'Quiet desk', membersOnly: true });
  await giveToTeam(ctx, SYSTEM, { kind: 'channel', id: channelId }, 'Quiet desk');
  await giveToTeam(ctx, SYSTEM, { kind: 'app', id: appId }, 'Quiet desk');
  const channel = await ctx.store.channels.one({ id: channelId });
  if (!channel) throw new Error('no channel');
  const message = await received(
    channel.address,
    inboundUrl(ctx, channel),
    INES,
    'A word about zymurgy, in confidence',
  );
  return { channelId, appId, hookId, ...message };
}

async function received(to: string, url: string, from: string, text: string) {
  expect(await postSigned(url, mossgate.secret, textIn(`bwt_${text.length}`, from, to, text))).toBe(202);
  const row = await until('it is in', () => house.ctx.store.messages.one({ text }));
  return { messageId: row.id, conversationId: row.conversation_id, inboundId: row.inbound_request_id ?? '' };
}

const actor = (name: string) => actorOf(people[name] as Person);
const ids = async (who: Actor) => (await listConversations(house.ctx, who)).map(({ id }) => id);

/** Every page and address of the application, with what belongs to the team in its place. */
function addresses(): string[] {
  const places: [RegExp, string][] = [
    [/channels\/\[id\]/, hidden.channelId],
    [/messages\/\[id\]/, hidden.messageId],
    [/conversations\/\[id\]/, hidden.conversationId],
    [/inbound\/\[id\]/, hidden.inboundId],
    [/apps\/\[id\]/, hidden.appId],
  ];
  return readdirSync(join(ROOT, 'src/app'), { recursive: true, encoding: 'utf8' })
    .filter((file) => /(?:^|\/)(?:page\.tsx|route\.ts)$/.test(file))
    .flatMap((file) => {
      const id = places.find(([pattern]) => pattern.test(file))?.[1] ?? hidden.messageId;
      const path = `/${file
        .replace(/\/?(?:page\.tsx|route\.ts)$/, '')
        .split('/')
        .filter((part) => !/^\(.*\)$/.test(part))
        .map((part) => (part === '[hookId]' ? hidden.hookId : part.startsWith('[') ? id : part))
        .join('/')}`;
      return /^\/(?:in|hooks|calls|chat|api|media|live)(?:\/|$)/.test(path) ? [] : [path];
    });
}

const QUERIES = ['', `?q=zymurgy`, '?q=Quillfeather', '?view=closed', `?channel=hidden`, '?format=csv', '?span=week'];

/** What the pages hold for somebody; lists are asked in more ways than one. */
async function bodiesOf(cookie: string, queries = QUERIES): Promise<{ path: string; status: number; text: string }[]> {
  const paths = addresses().flatMap((address) => {
    const list = !/sign-in|_[0-9A-Z]{26}/.test(address);
    return (list ? queries : ['']).map((query) => `${address}${query.replace('hidden', hidden.channelId)}`);
  });
  const turns = pLimit(4);
  return Promise.all(
    paths.map((path) =>
      turns(async () => {
        const answer = await fetch(`${house.origin}${path}`, { headers: { cookie, ...caller() }, redirect: 'manual' });
        // What was asked for is said back in places; that tells nothing.
        const text = (await answer.text()).replaceAll(/[?&]q=\w+/g, '').replaceAll(/“(?:zymurgy|Quillfeather)”/g, '');
        return { path, status: answer.status, text };
      }),
    ),
  );
}

test('nobody of another team reads a word of it, on no page and under no address', async () => {
  const { ctx } = house;
  await limitAdministrators(ctx, SYSTEM, true);
  for (const name of ['other', 'viewer', 'admin']) {
    const seen = await bodiesOf(await cookieOf(ctx, `${name}@mossgate.example`));
    const told = seen.flatMap(({ path, text }) =>
      CANARIES.filter((word) => text.includes(word) && !path.includes(word)).map((word) => `${name} ${path}: ${word}`),
    );
    expect(told).toEqual([]);
    expect(seen.filter(({ status }) => status >= 500).map(({ path }) => path)).toEqual([]);
    expect(seen.length).toBeGreaterThan(200);
  }
  await limitAdministrators(ctx, SYSTEM, false);
  // The same pages tell members and owners, so the words are there to be found.
  for (const name of ['member', 'maren']) {
    const text = (await bodiesOf(await cookieOf(ctx, `${name}@mossgate.example`), ['']))
      .map((each) => each.text)
      .join();
    for (const word of CANARIES) expect(text, `${name} ${word}`).toContain(word);
  }
});

test('each role opens what the one below it opens, and more', async () => {
  const opened: Record<string, Set<string>> = {};
  for (const name of ['viewer', 'member', 'admin', 'maren']) {
    const cookie = await cookieOf(house.ctx, `${name}@mossgate.example`);
    const answers = await Promise.all(
      addresses().map(async (path) => {
        const answer = await fetch(`${house.origin}${path}`, { headers: { cookie, ...caller() }, redirect: 'manual' });
        // What has begun to be sent says only within that there is nothing, or that something was wrong.
        const missing = /NEXT_HTTP_ERROR_FALLBACK;404|data-dgst=/.test(await answer.text());
        return [path, missing ? 404 : answer.status] as const;
      }),
    );
    opened[name] = new Set(answers.filter(([, status]) => status === 200).map(([path]) => path));
  }
  const { viewer, member, admin, maren } = opened as Record<'viewer' | 'member' | 'admin' | 'maren', Set<string>>;
  // A viewer of no team does not open the team's own pages; everything else does not depend on it.
  for (const path of viewer) expect(member, path).toContain(path);
  for (const path of member) expect(admin, path).toContain(path);
  for (const path of admin) expect(maren, path).toContain(path);
  expect([viewer.size < member.size, member.size < admin.size, admin.size < maren.size]).toEqual([true, true, true]);
});

test.each(['other', 'admin'])('no action of %s changes or tells what belongs to the team', async (name) => {
  const { ctx } = house;
  await limitAdministrators(ctx, SYSTEM, true);
  const manifest = JSON.parse(readFileSync(join(ROOT, '.next/server/server-reference-manifest.json'), 'utf8')) as {
    node: Record<string, { workers: Record<string, unknown>; exportedName?: string }>;
  };
  const cookie = await cookieOf(ctx, `${name}@mossgate.example`);
  const state = async () =>
    JSON.stringify([
      await ctx.store.conversations.one({ id: hidden.conversationId }),
      await ctx.store.channels.one({ id: hidden.channelId }),
      await ctx.store.apps.one({ id: hidden.appId }),
      await ctx.store.hooks.one({ id: hidden.hookId }),
      await ctx.store.messages.all({ conversation_id: hidden.conversationId }),
      await ctx.store.conversationNotes.all({ conversation_id: hidden.conversationId }),
      await ctx.store.presence.all({ conversation_id: hidden.conversationId }),
      await ctx.store.apiKeys.all({ app_id: hidden.appId }),
      await ctx.store.subscriptions.all({ app_id: hidden.appId }),
      // When they were last there is noted every few minutes.
      (await ctx.store.users.all()).map(({ seen_at: _, ...user }) => user),
      await ctx.store.teamMembers.all(),
    ]);
  let before = await state();
  const told: string[] = [];
  const changed: string[] = [];
  const tries = Object.entries(manifest.node).filter(
    ([, { exportedName }]) =>
      !/^(?:signOutAction|themeAction|endSessionAction|endOthersAction)$/.test(exportedName ?? ''),
  );
  expect(tries.length).toBeGreaterThan(140);
  for (const [id, { workers, exportedName }] of tries) {
    const page = Object.keys(workers).find((each) => !each.includes('[')) ?? 'app/(in)/page';
    const path = `/${page
      .replace(/^app\//, '')
      .replace(/\/?page$/, '')
      .split('/')
      .filter((part) => !/^\(.*\)$/.test(part))
      .map((part) => (part.startsWith('[') ? 'x' : part))
      .join('/')}`;
    await Promise.all(
      [hidden.conversationId, hidden.messageId, hidden.channelId, hidden.appId, hidden.hookId].map(async (given) => {
        const answer = await fetch(`${house.origin}${path}`, {
          method: 'POST',
          headers: {
            cookie,
            ...caller(),
            origin: house.origin,
            'next-action': id,
            'content-type': 'text/plain;charset=UTF-8',
          },
          body: JSON.stringify([given, { person: people.other?.id, text: 'x', channel: hidden.channelId }, true]),
        });
        const text = await answer.text();
        for (const word of CANARIES) if (text.includes(word)) told.push(`${exportedName} ${given}: ${word}`);
      }),
    );
    const after = await state();
    if (after !== before) changed.push(String(exportedName));
    before = after;
  }
  expect([told, changed]).toEqual([[], []]);
  await limitAdministrators(ctx, SYSTEM, false);
});

test('search, lists, the log as a file and live changes keep it, too', async () => {
  const { ctx } = house;
  const [other, member] = [actor('other'), actor('member')];
  expect([await ids(other), (await ids(member)).sort()]).toEqual([
    [shared.conversationId],
    [shared.conversationId, hidden.conversationId].sort(),
  ]);
  for (const word of ['zymurgy', 'Quillfeather', 'Sablefish', 'Harquebus', hidden.messageId]) {
    const kinds = async (who: Actor) =>
      (await searchEverything(ctx, who, word)).map(({ kind }) => kind).filter((kind) => kind !== 'message log');
    expect([word, await kinds(other)]).toEqual([word, []]);
    expect((await kinds(member)).length, word).toBeGreaterThan(0);
  }
  const file = async (who: Actor) => {
    let text = '';
    for await (const piece of exportMessages(ctx, who, { format: 'jsonl' })) text += piece;
    return text;
  };
  const admin = actor('admin');
  expect(await file(admin)).toContain('zymurgy');
  await limitAdministrators(ctx, SYSTEM, true);
  expect(await file(admin)).not.toContain('zymurgy');
  expect(await file(admin)).toContain('When is the gate open?');
  await limitAdministrators(ctx, SYSTEM, false);

  const hear = async (name: string) => {
    const cookie = await cookieOf(ctx, `${name}@mossgate.example`);
    const stop = new AbortController();
    const live = await fetch(`${house.origin}/live?after=0`, { headers: { cookie }, signal: stop.signal });
    let text = '';
    try {
      for await (const piece of live.body as unknown as AsyncIterable<Uint8Array>) {
        text += Buffer.from(piece).toString();
        if (text.includes(shared.conversationId)) break;
      }
    } finally {
      stop.abort();
    }
    return text;
  };
  expect(await hear('member')).toContain(hidden.conversationId);
  const heard = await hear('other');
  for (const id of [hidden.conversationId, hidden.messageId, hidden.channelId, hidden.appId])
    expect(heard).not.toContain(id);
});

test('an API key reaches what its app’s team reaches', async () => {
  const { ctx } = house;
  const key = async (appId: string) =>
    (await createApiKey(ctx, SYSTEM, { appId, name: `All of ${appId}`, scopes: [...SCOPES] })).key;
  const [stranger, own] = [await key(mossgate.appId), await key(hidden.appId)];
  const ask = async (operation: Operation, token: string, id: string) => {
    const answer = await fetch(`${house.origin}/api/v1${operation.path.replace('{id}', id)}`, {
      method: operation.method.toUpperCase(),
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      ...(operation.body
        ? {
            body: JSON.stringify({ ...(operation.example as object), from: hidden.channelId, to: INES, text: 'Hello' }),
          }
        : {}),
    });
    return { status: answer.status, text: await answer.text() };
  };
  const told: string[] = [];
  const before = await ctx.store.messages.count();
  for (const operation of Object.values(API) as Operation[])
    for (const id of [hidden.messageId, hidden.channelId, hidden.conversationId]) {
      const { text } = await ask(operation, stranger, id);
      for (const word of [...CANARIES, hidden.channelId, hidden.conversationId])
        if (text.includes(word) && !(operation.body && word === hidden.channelId))
          told.push(`${operation.id}: ${word}`);
    }
  expect(told).toEqual([]);
  expect(await ctx.store.messages.count()).toBe(before);
  const channels = Object.values(API).find((each) => each.id === 'listChannels') as Operation;
  const messages = Object.values(API).find((each) => each.id === 'listMessages') as Operation;
  expect((await ask(channels, own, '')).text).toContain('Quillfeather');
  expect((await ask(messages, own, '')).text).toContain('zymurgy');
});

test('in a conversation over several channels each sees the messages of the channels they reach', async () => {
  const { ctx } = house;
  // Ines wrote to the quiet desk; now she writes to the harbour, and the thread is one.
  const open = await received(mossgate.channel.address, mossgate.inboundUrl, INES, 'A question about moorings');
  expect(open.conversationId).toBe(hidden.conversationId);
  const texts = async (who: Actor) =>
    (await getThread(ctx, who, hidden.conversationId)).messages.map(({ text }) => text);
  expect(await texts(actor('other'))).toEqual(['A question about moorings']);
  expect(await texts(actor('member'))).toEqual(['A word about zymurgy, in confidence', 'A question about moorings']);
  // Given to the team it is theirs altogether; given to a person it is that person's, too.
  await giveConversation(ctx, actor('member'), hidden.conversationId, { team: 'Quiet desk' });
  await expect(texts(actor('other'))).rejects.toMatchObject({ kind: 'not-found' });
  await expect(
    giveConversation(ctx, actor('other'), hidden.conversationId, { person: people.other?.id ?? '' }),
  ).rejects.toMatchObject({ kind: 'not-found' });
  await giveConversation(ctx, actor('member'), hidden.conversationId, { person: people.other?.id ?? '' });
  expect(await texts(actor('other'))).toHaveLength(2);
});

test('an app that hears of the messages of all apps hears nothing of those', async () => {
  const { ctx } = house;
  await changeSubscription(ctx, SYSTEM, mossgate.subscriptionId, { filter: { allApps: true } });
  const send = (text: string, from: string) =>
    fetch(`${house.origin}/api/v1/messages`, {
      method: 'POST',
      headers: { authorization: `Bearer ${keys.get(from)}`, 'content-type': 'application/json' },
      body: JSON.stringify({ to: INES, from, text }),
    });
  const keys = new Map<string, string>();
  for (const [channel, appId] of [
    [hidden.channelId, hidden.appId],
    [mossgate.channel.id, hidden.appId],
  ] as const)
    keys.set(channel, (await createApiKey(ctx, SYSTEM, { appId, name: channel })).key);
  await ctx.store.write((unit) =>
    unit.conversations.change({ id: hidden.conversationId }, { team: null, assigned_to: null }),
  );
  expect((await send('Over the quiet line', hidden.channelId)).status).toBe(202);
  expect((await send('Over the harbour line', mossgate.channel.id)).status).toBe(202);
  for (const text of ['Over the quiet line', 'Over the harbour line'])
    await until('it was delivered', () => ctx.store.messages.one({ text, state: 'delivered' }));
  const told = (await ctx.store.deliveries.all({ subscription_id: mossgate.subscriptionId }))
    .map(({ body }) => body)
    .join();
  expect(told).toContain('Over the harbour line');
  expect(told).not.toContain('Over the quiet line');
});

test('who is in a team that keeps its own is said by owners', async () => {
  const { ctx } = house;
  await expect(
    changePerson(ctx, actor('admin'), people.other?.id ?? '', { teams: 'Quiet desk', mayStart: true }),
  ).rejects.toMatchObject({ kind: 'forbidden' });
  await changePerson(ctx, actor('admin'), people.other?.id ?? '', { teams: 'Loud desk, Night watch', mayStart: true });
  expect((await ctx.store.teams.all()).map(({ name }) => name).sort()).toEqual([
    'Loud desk',
    'Night watch',
    'Quiet desk',
  ]);
});
