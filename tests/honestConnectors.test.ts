/** A provider nobody has seen, which refuses inside 200, posts words nobody listed and has no fallback address: never flattered, nothing lost. */
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connectProvider } from '../src/operations/accounts/accounts';
import { handOverForMe, listChannels, openChannel } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { getProfile, saveProfile, tryProfile } from '../src/operations/profiles/connectorProfiles';
import { examineNow } from '../src/operations/readiness/readiness';
import { listWord } from '../src/operations/setAside/listWord';
import { viewSetAside } from '../src/operations/setAside/pages';
import { connectMossgate, INES, postSigned, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const TOKEN = 'k7w';
const LINE = '+447700900870';

const PROFILE = `profile: 1
id: hollin
name: Hollin
kind: sms-http
summary: SMS over HTTP, with every answer a 200.
preconditions: [A Hollin account.]
credentials:
  - { name: address, label: Address, help: Where it is. }
  - { name: token, label: Token, help: Three characters., secret: true }
handover:
  - { text: Paste the address., value: inbound-url }
amounts: minor
http: { base: "{{ credentials.address }}", headers: { x-hollin-token: "{{ credentials.token }}" } }
errors:
  code: $.error.code
  text: $.error.words
  rules:
    - { code: token, cause: credential-refused }
    - { code: broke, cause: credit-gone }
account:
  request: { method: GET, path: /me }
  read: { name: $.me.name, balance: $.me.left, currency: $.me.coin }
numbers:
  request: { method: GET, path: /lines }
  each: $.lines[*]
  read: { remoteId: $.id, address: $.line, inboundUrl: $.hook }
setInbound:
  request: { method: POST, path: "/lines/{{ number.remoteId }}", json: { hook: "{{ address.url }}" } }
send:
  request:
    method: POST
    path: /send
    json: { to: "{{ message.recipient }}", words: "{{ message.text }}" }
  read: { providerMessageId: $.id, price: $.cost, currency: $.coin }
inbound:
  token: { header: x-hollin-token, equals: "{{ credentials.token }}" }
  texts: { each: "$[?@.type=='text']", providerMessageId: $.id, from: $.from, to: $.to, text: $.words, at: $.at }
  receipts: { each: "$[?@.type=='state']", providerMessageId: $.id, state: $.state, at: $.at, states: { done: delivered } }
limits: { pace: 20 }
`;

let house: Installation;
let hollin: Server;
let address = '';
let hook = '';
let broke = false;
let channelId = '';
let ids = 0;

async function bodyOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

beforeAll(async () => {
  house = await startInstallation();
  hollin = createServer(async (request, response) => {
    const body = await bodyOf(request);
    const answer = (content: object) => {
      response.writeHead(200, { 'content-type': 'application/json' });
      response.end(JSON.stringify(content));
    };
    if (request.headers['x-hollin-token'] !== TOKEN) return answer({ error: { code: 'token', words: 'Who is it?' } });
    if (request.url === '/me') return answer({ me: { name: 'Mossgate', left: 4250, coin: 'GBP' } });
    if (request.url === '/lines') return answer({ lines: [{ id: 'l1', line: LINE, hook: hook || null }] });
    if (request.url === '/lines/l1') {
      hook = (JSON.parse(body) as { hook: string }).hook;
      return answer({ ok: true });
    }
    if (broke) return answer({ error: { code: 'broke', words: 'No money left' } });
    answer({ id: `h-${++ids}`, cost: 4, coin: 'GBP' });
  });
  await new Promise<void>((resolve) => hollin.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(hollin.address() as AddressInfo).port}`;
  await saveProfile(house.ctx, SYSTEM, PROFILE);
});
afterAll(async () => {
  hollin.close();
  await house.stop();
});

const post = async (events: object[]) =>
  (await fetch(hook, { method: 'POST', headers: { 'x-hollin-token': TOKEN }, body: JSON.stringify(events) })).status;

const trial = (text: string, part: 'account' | 'numbers' | 'inbound', values = {}) =>
  tryProfile(house.ctx, SYSTEM, { text, part, credentials: { address, token: TOKEN }, values });

test('a mistake in the profile is named at its line: what is looked for and not there is no success', async () => {
  const line = (words: string) => PROFILE.split('\n').findIndex((each) => each.includes(words)) + 1;
  expect(await trial(PROFILE, 'account')).toMatchObject({ ok: true, missing: [] });
  expect(await trial(PROFILE.replace('$.lines[*]', '$.rows[*]'), 'numbers')).toMatchObject({
    ok: false,
    missing: [{ line: line('each: $.lines'), name: 'each', path: '$.rows[*]' }],
  });
  const text = PROFILE.replace('$.me.left', '$.me.rest');
  expect((await trial(text, 'account')).missing).toEqual([
    { line: line('balance: $.me'), name: 'balance', path: '$.me.rest' },
  ]);
  const body = JSON.stringify([{ type: 'text', id: '1', from: INES, to: LINE, words: 'Hi', when: 1 }]);
  expect((await trial(PROFILE, 'inbound', { body })).missing).toEqual([
    { line: line('texts: { each'), name: 'at', path: '$.at' },
  ]);
});

test('wrong credentials answered with 200 are refused, the right ones bring the balance in pounds', async () => {
  const values = { name: 'Hollin', connector: 'hollin' };
  await expect(
    connectProvider(house.ctx, SYSTEM, { ...values, credentials: { address, token: 'nope' } }),
  ).rejects.toThrow();
  const { id } = await connectProvider(house.ctx, SYSTEM, { ...values, credentials: { address, token: TOKEN } });
  const account = await house.ctx.store.accounts.one({ id });
  expect(account?.facts.balance).toEqual({ micros: 42_500_000, currency: 'GBP' });
  const shown = await house.ctx.store.exchanges.all({ subject_id: id });
  expect(JSON.stringify(shown)).not.toContain(TOKEN);
  const number = await house.ctx.store.numbers.one({ account_id: id });
  channelId = (await openChannel(house.ctx, SYSTEM, { name: 'Hollin desk', numberId: number?.id ?? '' })).id;
  await handOverForMe(house.ctx, SYSTEM, channelId);
  const [view] = (await listChannels(house.ctx, SYSTEM)).filter(({ channel }) => channel.id === channelId);
  expect(view?.providerHas).toBe('ours');
  const { open } = await examineNow(house.ctx);
  expect(open.map(({ code }) => code)).not.toContain('fallback-empty');
});

test('a text refused with 200 has failed with its cause, and is not in doubt', async () => {
  const { ctx } = house;
  const send = createSender(ctx);
  broke = true;
  const { message } = await send(SYSTEM, { to: INES, from: channelId, text: 'Refused' });
  const row = await until('it is decided', async () => {
    const [event] = await ctx.store.events.all({ message_id: message.id, cause: 'credit-gone' });
    return event && (await ctx.store.messages.one({ id: message.id }));
  });
  expect(row.state).not.toBe('uncertain');
  broke = false;
});

test('a post with a text, a known state and one nobody listed: the two are in, and the third with one word said', async () => {
  const { ctx } = house;
  const { message } = await createSender(ctx)(SYSTEM, { to: TOMAS, from: channelId, text: 'Two states' });
  const sent = await until('it is sent', () => ctx.store.messages.one({ id: message.id, state: 'sent' }));
  const at = ctx.now();
  const id = sent.provider_message_id;
  expect(
    await post([
      { type: 'text', id: 'in-1', from: TOMAS, to: LINE, words: 'Beside a state', at },
      { type: 'state', id, state: 'at-the-phone', at },
    ]),
  ).toBe(202);
  const text = await until('the text is in', () => ctx.store.messages.one({ text: 'Beside a state' }));
  expect(text.created_at).toBeGreaterThan(0);
  const waiting = await until('the rest waits', async () => {
    const [item] = await viewSetAside(ctx, SYSTEM, false);
    return item;
  });
  expect(waiting).toMatchObject({ unlisted: [{ what: 'receipt', word: 'at-the-phone' }] });
  // The same again, from the provider's other machine: it waits beside the first.
  expect(await post([{ type: 'state', id, state: 'at-the-phone', at }])).toBe(202);
  await until('both wait', async () => (await viewSetAside(ctx, SYSTEM, false)).length === 2);
  const said = { requestId: waiting.id, what: 'receipt', word: 'at-the-phone' };
  await expect(listWord(ctx, SYSTEM, { ...said, means: 'maybe' })).rejects.toThrow(/cannot mean/);
  expect(await listWord(ctx, SYSTEM, { ...said, means: 'delivered' })).toBe(2);
  await until('it is delivered', () => ctx.store.messages.one({ id: message.id, state: 'delivered' }));
  expect(await viewSetAside(ctx, SYSTEM, false)).toEqual([]);
  expect(await ctx.store.messages.count({ text: 'Beside a state' })).toBe(1);
  expect((await ctx.store.profiles.one({ id: 'hollin' }))?.text).toContain('at-the-phone: delivered');
});

test('an event of a kind nobody listed, alone in a post: taken, kept, and said once to be of no interest', async () => {
  const { ctx } = house;
  const typing = { type: "typing's", from: TOMAS, to: LINE };
  expect(await post([typing])).toBe(202);
  const waiting = await until('it waits', async () => (await viewSetAside(ctx, SYSTEM, false))[0]);
  expect(waiting).toMatchObject({ unlisted: [{ what: 'event', word: "typing's" }] });
  const said = { requestId: waiting.id, what: 'event', word: "typing's" };
  await expect(listWord(ctx, SYSTEM, { ...said, means: 'delivered' })).rejects.toThrow(/cannot mean/);
  expect(await listWord(ctx, SYSTEM, { ...said, means: 'nothing' })).toBe(1);
  await until('nothing waits', async () => (await viewSetAside(ctx, SYSTEM, false)).length === 0);
  expect(await post([typing, { ...typing, type: 'seen-by' }])).toBe(202);
  const other = await until('the other kind waits', async () => (await viewSetAside(ctx, SYSTEM, false))[0]);
  expect(other.unlisted).toEqual([{ what: 'event', word: 'seen-by' }]);
  await listWord(ctx, SYSTEM, { requestId: other.id, what: 'event', word: 'seen-by', means: 'nothing' });
  await until('nothing waits again', async () => (await viewSetAside(ctx, SYSTEM, false)).length === 0);
  expect(await post([typing, { ...typing, type: 'seen-by' }])).toBe(202);
  const text = { type: 'text', id: 'in-9', from: TOMAS, to: LINE, words: 'Behind it', at: ctx.now() };
  expect(await post([text])).toBe(202);
  await until('the text is in', () => ctx.store.messages.one({ text: 'Behind it' }));
  expect(await viewSetAside(ctx, SYSTEM, false)).toEqual([]);
});

test('a word that a provider of a shipped profile begins to say is said once to mean something, and is known from then on', async () => {
  const { ctx } = house;
  const { channel, secret, inboundUrl } = await connectMossgate(house);
  const { message } = await createSender(ctx)(SYSTEM, { to: TOMAS, from: channel.id, text: 'Parked' });
  const sent = await until('it is delivered', () => ctx.store.messages.one({ id: message.id, state: 'delivered' }));
  const report = (id: string) =>
    JSON.stringify({ events: [{ kind: 'report', id, state: 'seen-at-desk', at: new Date(ctx.now()).toISOString() }] });
  expect(await postSigned(inboundUrl, secret, report(sent.provider_message_id ?? ''), ctx.now())).toBe(202);
  const waiting = await until('it waits', async () => (await viewSetAside(ctx, SYSTEM, false))[0]);
  expect(waiting).toMatchObject({ unlisted: [{ what: 'receipt', word: 'seen-at-desk' }] });
  await listWord(ctx, SYSTEM, { requestId: waiting.id, what: 'receipt', word: 'seen-at-desk', means: 'read' });
  await until('it is read', () => ctx.store.messages.one({ id: message.id, state: 'read' }));
  expect((await getProfile(ctx, SYSTEM, 'brackwater')).text).toContain('seen-at-desk: read');
});
