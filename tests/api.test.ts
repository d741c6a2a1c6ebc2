/** The API through a client made from the published document; every answer is held against its schema. */
import { request } from 'node:http';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { OpenAPIClientAxios } from 'openapi-client-axios';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { z } from 'zod';
import { createApiKey, replaceApiKey, revokeApiKey } from '../src/operations/apps/apiKeys';
import { EVENT_TYPES, sampleEvent } from '../src/operations/apps/webhooks/webhookEvents';
import { type Scope, SYSTEM } from '../src/operations/context/actor';
import { API } from '../src/web/api/catalogue';
import { callApi, connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

interface Described {
  paths: Record<
    string,
    Record<string, { operationId: string; responses: Record<string, { content?: Record<string, { schema: object }> }> }>
  >;
  components: object;
}

/** What the tests read of answers; the schemas judge the rest. */
interface Answered {
  id: string;
  state?: string;
  secret?: string;
  messages?: object[];
  conversations?: object[];
  channels?: { address: string; proofs: object[] }[];
  webhooks?: { id: string; state: string }[];
  deliveries?: { cause: string | null }[];
}

const CALLS = 40;

let installation: Installation;
let mossgate: Mossgate;
let document: Described;
let ajv: Ajv2020;
const key = (scopes?: readonly Scope[], expiresAt?: number) =>
  createApiKey(installation.ctx, SYSTEM, { appId: mossgate.appId, name: 'Test', scopes, expiresAt });

beforeAll(async () => {
  installation = await startInstallation({ env: { WINDGAP_CALLS_PER_MINUTE: String(CALLS) } });
  mossgate = await connectMossgate(installation);
  document = (await (await fetch(`${installation.origin}/api/v1/openapi.json`)).json()) as Described;
  ajv = new Ajv2020({ strict: false });
  addFormats.default(ajv);
  ajv.addSchema({ ...document, $id: 'api' } as object);
});
afterAll(() => installation.stop());

/** A client with a method for each operation of the document. Throws when an answer is not as documented. */
async function clientWith(apiKey: string) {
  const api = new OpenAPIClientAxios({
    definition: document as never,
    axiosConfigDefaults: { headers: { authorization: `Bearer ${apiKey}` }, validateStatus: () => true },
  });
  const client = (await api.getClient()) as unknown as Record<
    string,
    (
      params?: object | null,
      body?: object,
    ) => Promise<{ status: number; data: unknown; headers: Record<string, string> }>
  >;
  return async (operationId: string, params: object | null = null, body?: object) => {
    const answer = await client[operationId]?.(params, body);
    if (!answer) throw new Error(`The document has no ${operationId}`);
    expectDocumented(operationId, answer.status, answer.data);
    return { status: answer.status, data: answer.data as Answered, headers: answer.headers };
  };
}

function expectDocumented(operationId: string, status: number, data: unknown) {
  for (const [path, methods] of Object.entries(document.paths))
    for (const [method, operation] of Object.entries(methods)) {
      if (operation.operationId !== operationId) continue;
      const response = operation.responses[status];
      expect(response, `${operationId} answered ${status}, which is not documented`).toBeDefined();
      const [type] = Object.keys(response?.content ?? {});
      if (!type) return expect(data || '').toBe('');
      const at = ['paths', path, method, 'responses', String(status), 'content', type, 'schema'];
      const pointer = at.map((part) => encodeURIComponent(part.replace(/~/g, '~0').replace(/\//g, '~1'))).join('/');
      const valid = ajv.validate({ $ref: `api#/${pointer}` }, data);
      expect(valid, `${operationId}: ${ajv.errorsText()} in ${JSON.stringify(data)}`).toBe(true);
      return;
    }
}

test('the sample of each event has the shape that is published for it', () => {
  for (const type of EVENT_TYPES) {
    const pointer = `webhooks/${type}/post/requestBody/content/application~1cloudevents+json/schema`;
    const valid = ajv.validate({ $ref: `api#/${pointer}` }, sampleEvent(type));
    expect(valid, `${type}: ${ajv.errorsText()}`).toBe(true);
  }
});

test('every example has the shape it is an example of', () => {
  const operations = Object.values(API).filter((operation) => 'body' in operation);
  expect(operations.length).toBeGreaterThan(4);
  for (const { id, body, example } of operations as { id: string; body: z.ZodType; example?: object }[])
    expect([id, body.safeParse(example).success]).toEqual([id, true]);
});

describe('a client made from the document', () => {
  test('sends a message and reads what became of it', async () => {
    const call = await clientWith((await key()).key);
    const { status, data } = await call('sendMessage', null, { to: INES, text: 'From a made client' });
    expect(status).toBe(202);
    // Not asked of the API again and again: callers have a quota.
    await until(
      'it is delivered',
      async () => (await installation.ctx.store.messages.one({ id: data.id }))?.state === 'delivered',
    );
    expect((await call('getMessage', { id: data.id })).data.state).toBe('delivered');
    const list = await call('listMessages', { direction: 'outbound', limit: 1 });
    expect(list.data.messages).toMatchObject([{ text: 'From a made client' }]);
    const { conversations = [] } = (await call('listConversations', { search: 'made client' })).data as {
      conversations?: { id: string; contactId: string }[];
    };
    expect(conversations).toHaveLength(1);
    // The same found by whose it is, by its tag, and by when it was made; and by none of another.
    const tagged = await call('sendMessage', null, { to: INES, text: 'Tagged', tags: ['passage', 'lock'] });
    const found = async (query: Record<string, unknown>) =>
      ((await call('listMessages', query)).data.messages as { text: string }[]).map(({ text }) => text);
    const { id: conversation, contactId: contact } = conversations[0] ?? {};
    const { createdAt } = tagged.data as { createdAt?: string };
    expect(await found({ conversation, limit: 2 })).toEqual(['Tagged', 'From a made client']);
    expect(await found({ contact, direction: 'outbound' })).toContain('From a made client');
    expect(await found({ tag: 'lock' })).toEqual(['Tagged']);
    expect(await found({ since: createdAt, direction: 'outbound' })).toEqual(['Tagged']);
    expect(await found({ until: createdAt, direction: 'outbound' })).not.toContain('Tagged');
    for (const none of [{ tag: 'loc' }, { contact: 'con_none' }, { conversation: 'cnv_none' }])
      expect(await found(none)).toEqual([]);
    expect((await call('listMessages', { since: 'yesterday' })).status).toBe(422);
    expect((await call('getMessage', { id: 'msg_none' })).status).toBe(404);
  });

  test('reads channels and numbers with what is proven of them', async () => {
    const call = await clientWith((await key(['channels:read'])).key);
    const { channels = [] } = (await call('listChannels')).data;
    expect(channels).toMatchObject([{ address: mossgate.channel.address }]);
    expect(channels[0]?.proofs).toHaveLength(4);
    expect(JSON.stringify((await call('listNumbers')).data)).toContain(mossgate.channel.address);
  });

  test('measures texts and normalises addresses', async () => {
    const call = await clientWith((await key(['messages:send'])).key);
    expect((await call('measureText', null, { text: 'Lock closed – use Tollgate' })).data).toMatchObject({
      encoding: 'UCS-2',
      parts: 1,
      forcing: [{ character: '–', at: 12, substitute: '-' }],
    });
    const good = await call('normaliseAddress', null, { address: '(020) 7946 0100', country: 'GB' });
    expect(good.data).toMatchObject({ address: { value: '+442079460100' }, finding: null });
    const bad = await call('normaliseAddress', null, { address: '020 7946 0100' });
    expect(bad.data).toMatchObject({ address: null, finding: { fix: expect.any(String) } });
    expect((await call('measureText', null, { words: 'x' })).status).toBe(422);
  });

  test('manages its own webhooks: subscribe, test, log, replay, new secret, pause, end', async () => {
    const call = await clientWith((await key(['webhooks:read', 'webhooks:write'])).key);
    const url = `http://127.0.0.1:${installation.world.ports.lockbook}/nowhere`;
    const made = await call('createSubscription', null, { url, filter: { states: ['failed'] } });
    expect(made).toMatchObject({ status: 201, data: { secret: expect.stringMatching(/^whsec_/) } });
    const { id } = made.data;
    await call('sendTestEvent', { id });
    const log = await until('the attempt is in the log', async () => {
      const { data } = await call('listDeliveries', { id });
      const [entry] = data.deliveries ?? [];
      return entry?.cause ? entry : undefined;
    });
    expect(log).toMatchObject({ eventType: 'windgap.test', cause: 'app-address-unknown', lastStatus: 404 });
    const range = { from: new Date(0).toISOString(), to: new Date().toISOString() };
    expect((await call('replay', { id }, { ...range, which: 'all' })).data).toEqual({ replayed: 0 });
    expect((await call('replaceSecret', { id })).data.secret).not.toBe(made.data.secret);
    expect((await call('pauseSubscription', { id })).status).toBe(204);
    const states = async () => (await call('listSubscriptions')).data.webhooks?.find((row) => row.id === id)?.state;
    expect(await states()).toBe('paused');
    await call('resumeSubscription', { id });
    expect((await call('changeSubscription', { id }, { url: `${url}/else` })).status).toBe(204);
    const { webhooks } = (await call('listSubscriptions')).data;
    expect(webhooks?.find((row) => row.id === id)).toMatchObject({
      url: `${url}/else`,
      filter: { states: ['failed'] },
    });
    expect((await call('endSubscription', { id })).status).toBe(204);
    expect(await states()).toBe('ended');
    expect((await call('endSubscription', { id: 'sub_none' })).status).toBe(404);
  });
});

describe('keys that may not', () => {
  const ask = (apiKey: string) => callApi(installation, apiKey, 'GET', '/messages?limit=1');
  const broken = () => installation.ctx.store.proofs.one({ subject_id: mossgate.appId, hop: 'call-in' });

  test('a key without the scope is told which one', async () => {
    const { key: narrow } = await key(['channels:read']);
    expect(await ask(narrow)).toMatchObject({
      status: 403,
      body: { detail: expect.stringContaining('messages:read') },
    });
  });

  test('an expired and a revoked key are told so, and the way in is broken with the cause', async () => {
    const { id, key: brief } = await key(undefined, Date.now() + 60_000);
    expect((await ask(brief)).status).toBe(200);
    await installation.ctx.store.write((unit) => unit.apiKeys.change({ id }, { expires_at: Date.now() - 1000 }));
    const expired = await until('it is refused', async () => {
      const answer = await ask(brief);
      return answer.status === 401 ? answer : undefined;
    });
    expect(expired.body).toMatchObject({ type: expect.stringMatching(/key-expired$/) });

    const { id: other, key: gone } = await key();
    await revokeApiKey(installation.ctx, SYSTEM, other);
    const revoked = await ask(gone);
    expect(revoked).toMatchObject({ status: 401, body: { type: expect.stringMatching(/key-revoked$/) } });
    await until('the mark is broken', async () => (await broken())?.cause === 'key-revoked');
    expect((await ask('wgk_never')).body.type).toMatch(/key-unknown$/);
  });

  test('a replaced key works beside the new one until its time is over', async () => {
    const { id, key: old } = await key();
    const { key: fresh, oldEndsAt } = await replaceApiKey(installation.ctx, SYSTEM, id, { hours: 1 });
    expect(oldEndsAt - Date.now()).toBeGreaterThan(3_500_000);
    expect([(await ask(old)).status, (await ask(fresh)).status]).toEqual([200, 200]);
    const briefly = await replaceApiKey(installation.ctx, SYSTEM, id, { expiresAt: Date.now() + 60_000 });
    expect((await installation.ctx.store.apiKeys.one({ id: briefly.id }))?.expires_at).toBeLessThan(
      Date.now() + 61_000,
    );
    await expect(replaceApiKey(installation.ctx, SYSTEM, id, { expiresAt: 1 })).rejects.toThrow('ended already');
    const none = await replaceApiKey(installation.ctx, SYSTEM, id, { hours: 0 });
    await until('the old one is refused', async () => (await ask(old)).status === 401);
    expect((await ask(none.key)).status).toBe(200);
    await expect(replaceApiKey(installation.ctx, SYSTEM, id, { hours: 1 })).rejects.toThrow('no longer works');
  });

  test('one that calls too often is told when to go on; others are not held up', async () => {
    const { key: busy } = await key();
    const answers = await Promise.all(Array.from({ length: CALLS + 3 }, () => ask(busy)));
    expect(answers.filter((answer) => answer.status === 200)).toHaveLength(CALLS);
    const refused = answers.find((answer) => answer.status === 429);
    expect(refused?.headers.get('retry-after')).toMatch(/^\d+$/);
    expect(refused?.headers.get('ratelimit-policy')).toBe(`"calls";q=${CALLS};w=60`);
    expect(answers[0]?.headers.get('ratelimit')).toMatch(/^"calls";r=\d+;t=\d+$/);
    expect((await ask((await key()).key)).status).toBe(200);
  });
});

test('contacts are found by their number and read one by one', async () => {
  const { key: read } = await key(['conversations:read']);
  await installation.bench.type(INES, '+442079460114', 'Who am I?');
  // Asked of the store, as this key may call so often only.
  await until('it is stored', () => installation.ctx.store.messages.one({ text: 'Who am I?' }));
  const { body } = await callApi(installation, read, 'GET', `/contacts?address=${encodeURIComponent(INES)}`);
  const [contact] = (body as unknown as { contacts: { id: string; identities: object[] }[] }).contacts;
  expect(contact?.identities).toEqual([{ kind: 'phone', value: INES }]);
  expect(await callApi(installation, read, 'GET', `/contacts/${contact?.id}`)).toMatchObject({
    status: 200,
    body: { id: contact?.id },
  });
  expect((await callApi(installation, read, 'GET', '/contacts/con_none')).status).toBe(404);
});

test('odd addresses and headers are answered as what they are, never as a failure of ours', async () => {
  const { key: secret } = await key();
  const { hostname, port } = new URL(installation.origin);
  const ask = (method: string, path: string, headers: Record<string, string>, body?: string) =>
    new Promise<number>((resolve, reject) => {
      const call = request({ hostname, port, method, path, headers }, (answer) => {
        answer.resume();
        answer.on('end', () => resolve(answer.statusCode ?? 0));
      });
      call.on('error', reject);
      call.end(body);
    });
  const authorization = `Bearer ${secret}`;
  const order = JSON.stringify({ to: INES, text: 'Odd', from: mossgate.channel.address });
  const json = { authorization, 'content-type': 'application/json' };
  expect({
    brokenEscape: await ask('GET', '/api/v1/messages/%E0%A4%A', { authorization }),
    zero: await ask('GET', '/api/v1/messages/%00', { authorization }),
    long: await ask('GET', `/api/v1/messages/${'a'.repeat(4000)}`, { authorization }),
    letter: await ask('GET', '/api/v1/messages', { authorization: 'Bearer w\u00edndgap' }),
    noScheme: await ask('GET', '/api/v1/messages', { authorization: '\u00e9' }),
    keyed: await ask('POST', '/api/v1/messages', { ...json, 'idempotency-key': 'gr\u00fc\u00df' }, order),
    keyedAgain: await ask('POST', '/api/v1/messages', { ...json, 'idempotency-key': 'gr\u00fc\u00df' }, order),
    proxied: await ask('GET', '/api/v1/messages', { authorization, 'x-forwarded-for': '\u00e9'.repeat(300) }),
    query: await ask('GET', '/api/v1/messages?address=%E0%A4%A&cursor=%00', { authorization }),
    zeros: await Promise.all(
      ['to', 'from', 'inReplyTo', 'text'].map((field) =>
        ask('POST', '/api/v1/messages', json, JSON.stringify({ ...JSON.parse(order), [field]: 'a\u0000b' })),
      ),
    ),
    inbound: await ask('POST', '/in/%E0%A4%A', {}, 'x'),
    hook: await ask('POST', '/hooks/%E0%A4%A', {}, '{}'),
    calls: await ask('POST', '/calls/%E0%A4%A', {}, '{}'),
    media: await ask('GET', '/media/%E0%A4%A', {}),
    page: await ask('GET', '/%E0%A4%A', {}),
  }).toEqual({
    brokenEscape: 404,
    zero: 404,
    long: 404,
    letter: 401,
    noScheme: 401,
    keyed: 202,
    keyedAgain: 202,
    proxied: 200,
    query: expect.toSatisfy((status: number) => status < 500),
    zeros: [422, 422, 422, 422],
    inbound: 404,
    hook: 404,
    calls: 404,
    media: expect.toSatisfy((status: number) => status < 500),
    page: expect.toSatisfy((status: number) => status < 500),
  });
});
