/** Apps are apart: each sees what it sent or was told, and each is answered in the version it was written for. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { FIRST_VERSION, LATEST_VERSION } from '../src/core/api/versions';
import { createApiKey, narrowKey, replaceApiKey, setKeyVersion } from '../src/operations/apps/apiKeys';
import { createApp } from '../src/operations/apps/apps';
import { setSubscriptionVersion, subscribe } from '../src/operations/apps/webhooks/subscriptions';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { callApi, connectMossgate, INES, type Mossgate, postSigned, textIn } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let other: { id: string; key: string };
/** Sent by Lockbook, by the other app, by a person's desk; and one that came in and was routed to Lockbook. */
const ids: Record<'lockbook' | 'other' | 'desk' | 'inbound', string> = {} as never;
const BEFORE = '+447700900124';

beforeAll(async () => {
  house = await startInstallation();
  const { ctx } = house;
  mossgate = await connectMossgate(house);
  const app = await createApp(ctx, SYSTEM, { name: 'Ledger', description: 'Invoices' });
  other = { id: app.id, key: (await createApiKey(ctx, SYSTEM, { appId: app.id, name: 'Ledger server' })).key };
  const post = async (key: string, to: string, text: string) =>
    (await callApi(house, key, 'POST', '/messages', { to, from: mossgate.channel.id, text })).body.id;
  ids.lockbook = await post(mossgate.apiKey, INES, 'From Lockbook');
  ids.other = await post(other.key, INES, 'Your invoice is 12');
  ids.desk = (
    await createSender(ctx)(SYSTEM, { to: BEFORE, from: mossgate.channel.id, text: 'By a person' })
  ).message.id;
  const body = textIn('bwt_apart', INES, mossgate.channel.address, 'Came in');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(202);
  ids.inbound = (await until('it is in', () => ctx.store.messages.one({ text: 'Came in' }))).id;
  await settle(house);
});
afterAll(() => house.stop());

const get = (key: string, path: string) => callApi(house, key, 'GET', path);
const seen = async (key: string, query = '') =>
  ((await get(key, `/messages${query}`)).body.messages as { id: string }[]).map(({ id }) => id).sort();

test('a key sees what its app sent or was told, in every list, by id, page by page', async () => {
  expect(await seen(mossgate.apiKey)).toEqual([ids.lockbook, ids.inbound].sort());
  expect(await seen(other.key)).toEqual([ids.other]);
  expect(await seen(mossgate.apiKey, '?direction=inbound')).toEqual([ids.inbound]);
  const first = await get(mossgate.apiKey, '/messages?limit=1');
  const [newest] = first.body.messages as { id: string }[];
  expect(newest?.id).toBe(ids.inbound);
  expect(await seen(mossgate.apiKey, `?limit=1&cursor=${first.body.next}`)).toEqual([ids.lockbook]);
  for (const [key, id, status] of [
    [mossgate.apiKey, ids.lockbook, 200],
    [mossgate.apiKey, ids.other, 404],
    [mossgate.apiKey, ids.desk, 404],
    [other.key, ids.inbound, 404],
  ] as const)
    expect((await get(key, `/messages/${id}`)).status, id).toBe(status);
});

test('people and conversations are theirs who wrote with them, and show only those words', async () => {
  const contacts = async (key: string) => ((await get(key, '/contacts')).body.contacts as { id: string }[]).length;
  expect([await contacts(mossgate.apiKey), await contacts(other.key)]).toEqual([1, 1]);
  const theirs = async (key: string, query = '') =>
    (await get(key, `/conversations${query}`)).body.conversations as { lastText: string }[];
  expect(await theirs(other.key)).toMatchObject([{ lastText: 'Your invoice is 12' }]);
  expect(await theirs(mossgate.apiKey)).toMatchObject([{ lastText: 'Came in' }]);
  // Words of others are not found by trying them.
  expect(await theirs(other.key, '?search=Came')).toEqual([]);
  const desk = await house.ctx.store.messages.one({ id: ids.desk });
  expect((await get(other.key, `/contacts/${desk?.contact_id}`)).status).toBe(404);
});

test('nobody answers a message they were not told of', async () => {
  const answer = (key: string) =>
    callApi(house, key, 'POST', '/messages', { inReplyTo: ids.inbound, text: 'Answer', from: mossgate.channel.id });
  expect((await answer(other.key)).status).toBe(422);
  expect((await answer(mossgate.apiKey)).status).toBe(202);
});

test('with the scope for all a key sees all, until that is taken from it', async () => {
  const made = await createApiKey(house.ctx, SYSTEM, {
    appId: other.id,
    name: 'Archive',
    scopes: ['messages:read', 'messages:all'],
  });
  const all = await house.ctx.store.messages.count();
  expect(await seen(made.key)).toHaveLength(all);
  await narrowKey(house.ctx, SYSTEM, made.id);
  await until('the key is read again', async () => (await seen(made.key)).length === 1);
});

test('what becomes of a message is told to its sender, and to others only where somebody opened that', async () => {
  const { ctx } = house;
  const url = 'http://127.0.0.1:9/nobody';
  const narrow = await subscribe(ctx, SYSTEM, { appId: other.id, url, events: ['windgap.message.state'] });
  const wide = await subscribe(ctx, SYSTEM, { appId: other.id, url, filter: { allApps: true } });
  const hooks = await createApiKey(ctx, SYSTEM, { appId: other.id, name: 'Hooks', scopes: ['webhooks:write'] });
  const opening = { url: 'https://mossgate.example/in', filter: { allApps: true } };
  expect((await callApi(house, hooks.key, 'POST', '/webhooks', opening)).status).toBe(403);
  // What an administrator opened stays when the app changes something else.
  expect(
    (
      await fetch(`${house.origin}/api/v1/webhooks/${wide.id}`, {
        method: 'PATCH',
        headers: { authorization: `Bearer ${hooks.key}`, 'content-type': 'application/json' },
        body: JSON.stringify({ events: ['windgap.message.state'] }),
      })
    ).status,
  ).toBe(204);
  const sent = await createSender(ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'By a desk' });
  await until('it went', async () => (await ctx.store.messages.one({ id: sent.message.id }))?.state !== 'queued');
  await until(
    'the wide one has its event',
    async () => (await ctx.store.deliveries.count({ subscription_id: wide.id, message_id: sent.message.id })) > 0,
  );
  expect(await ctx.store.deliveries.count({ subscription_id: narrow.id })).toBe(0);
});

test('a key keeps its version: answers as they were, what will end says when, and a call can try another', async () => {
  const { ctx } = house;
  const made = await createApiKey(ctx, SYSTEM, { appId: other.id, name: 'Old program' });
  const wrong = (key: string, headers = {}) =>
    callApi(house, key, 'POST', '/addresses/normalise', { address: '12' }, headers);
  const latest = await wrong(made.key);
  expect(latest.headers.get('windgap-version')).toBe(LATEST_VERSION);
  expect([latest.headers.get('deprecation'), latest.headers.get('sunset')]).toEqual([null, null]);
  expect(latest.body.finding).not.toHaveProperty('mend');

  const tried = await wrong(made.key, { 'windgap-version': FIRST_VERSION });
  expect(tried.body.finding).toMatchObject({ fix: expect.any(String), mend: expect.any(String) });
  expect((await wrong(made.key, { 'windgap-version': '1999-01-01' })).status).toBe(400);

  await setKeyVersion(ctx, SYSTEM, made.id, FIRST_VERSION);
  const old = await until('the key is read again', async () => {
    const answer = await wrong(made.key);
    return answer.headers.get('windgap-version') === FIRST_VERSION ? answer : undefined;
  });
  expect(old.headers.get('deprecation')).toMatch(/^@\d+$/);
  expect(Date.parse(old.headers.get('sunset') ?? '')).toBeGreaterThan(Date.UTC(2027, 0));
  expect(old.headers.get('link')).toContain('rel="deprecation"');
  // Refusals, too, and the key that takes its place.
  const refused = await callApi(house, made.key, 'POST', '/messages', {
    to: 'x',
    from: mossgate.channel.id,
    text: 'x',
  });
  expect((refused.body.errors as object[])[0]).toHaveProperty('mend');
  const next = await replaceApiKey(ctx, SYSTEM, made.id);
  expect((await wrong(next.key)).headers.get('windgap-version')).toBe(FIRST_VERSION);
});

test('events are written in the version of their subscription', async () => {
  const { ctx } = house;
  const { id } = await subscribe(ctx, SYSTEM, { appId: other.id, url: 'http://127.0.0.1:9/old' });
  await setSubscriptionVersion(ctx, SYSTEM, id, FIRST_VERSION);
  const number = '+447700900999';
  await callApi(house, other.key, 'POST', '/messages', { to: number, from: mossgate.channel.id, text: 'To nobody' });
  const failed = await until('it failed', async () =>
    (await ctx.store.deliveries.all({ subscription_id: id })).find(({ body }) => body.includes('"failed"')),
  );
  const { cause } = (JSON.parse(failed.body) as { data: { cause: object } }).data;
  expect(cause).toMatchObject({ mend: expect.any(String) });
});
