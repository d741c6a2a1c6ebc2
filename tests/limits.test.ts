/** That nobody can make an installation text strangers: limits, destinations, rises that are held, codes. On real wires. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { WEB_CHAT_START } from '../src/core/connect/webChat';
import { listAlerts } from '../src/operations/alerts/list';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { openWebChat } from '../src/operations/channels/webChat';
import { SYSTEM } from '../src/operations/context/actor';
import { replyState } from '../src/operations/conversations/replyOptions';
import { saveDestinations } from '../src/operations/limits/destinations';
import { recentStops, viewLimits } from '../src/operations/limits/pages';
import { savePrices } from '../src/operations/limits/prices';
import { changeLimits, liftLimit } from '../src/operations/limits/settings';
import { decideSetAside } from '../src/operations/setAside/decide';
import { viewSetAside } from '../src/operations/setAside/pages';
import { callApi, connectMossgate, INES, type Mossgate, postSigned, TOMAS, textIn } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let codesKey: string;

beforeAll(async () => {
  house = await startInstallation({ limited: true });
  mossgate = await connectMossgate(house);
  const made = await createApiKey(house.ctx, SYSTEM, { appId: mossgate.appId, name: 'Codes', scopes: ['codes:send'] });
  codesKey = made.key;
});
afterAll(() => house.stop());

const send = (to: string, text = 'Your table is ready.', more: object = {}) =>
  callApi(house, mossgate.apiKey, 'POST', '/messages', { to, from: mossgate.channel.id, text, ...more });
const problemOf = (answer: Awaited<ReturnType<typeof send>>) =>
  (answer.body.errors as { code: string; problem: string }[] | undefined)?.[0];
const nth = (n: number) => `+447700900${String(n).padStart(3, '0')}`;
const limits = (given: Parameters<typeof changeLimits>[2]) => changeLimits(house.ctx, SYSTEM, given);
/** Nobody else counts what an earlier test sent. */
const forget = () =>
  house.ctx.store.write(async (unit) => {
    for (const table of ['sending_counts', 'sending_stops', 'limit_lifts', 'verification_codes'])
      await unit.execute(`DELETE FROM ${table}`);
  });

test('sixty at once to one number count like sixty in a row', async () => {
  const answers = await Promise.all(Array.from({ length: 60 }, (_, n) => send(INES, `Text ${n}`)));
  expect(answers.filter(({ status }) => status === 202)).toHaveLength(40);
  const refused = answers.filter(({ status }) => status === 429);
  expect(refused).toHaveLength(20);
  expect(problemOf(refused[0] as never)).toMatchObject({
    code: 'limit-reached',
    problem: expect.stringContaining('40 texts to one number in an hour'),
  });
  // Everybody else goes on.
  expect((await send(nth(124))).status).toBe(202);
  const { stops, limits: shown } = await viewLimits(house.ctx, SYSTEM);
  expect(stops).toMatchObject([{ limit: 'recipient-hour', orders: 20, by: 'Lockbook', held: false }]);
  expect(shown.find(({ name }) => name === 'recipient-hour')?.nearest).toMatchObject({ amount: '40 texts', share: 1 });
  await until('an alert says so', async () =>
    (await listAlerts(house.ctx, SYSTEM, false)).find(({ problem }) => problem.includes('20 stopped')),
  );
  await liftLimit(house.ctx, SYSTEM, { limit: 'recipient-hour', subject: INES, hours: 1 });
  expect((await send(INES)).status).toBe(202);
});

test('an order that was refused does not use its idempotency key up, nor the limit', async () => {
  await forget();
  await limits({ 'recipient-hour': 1 });
  const key = { 'idempotency-key': 'once' };
  const order = { to: nth(130), from: mossgate.channel.id, text: 'Once' };
  const [first, again] = [
    await callApi(house, mossgate.apiKey, 'POST', '/messages', order, key),
    await callApi(house, mossgate.apiKey, 'POST', '/messages', order, key),
  ];
  expect([first.status, again.status, again.headers.get('windgap-replayed')]).toEqual([202, 202, 'true']);
  expect((await send(nth(130))).status).toBe(429);
  // A long text is as many as it has parts.
  expect((await send(nth(131), 'x'.repeat(200))).status).toBe(429);
  await limits({ 'recipient-hour': null });
  expect((await send(nth(130))).status).toBe(202);
});

test('a country nobody works in and costly numbers are refused; who wrote first is answered', async () => {
  const { ctx } = house;
  const abroad = await send(TOMAS);
  expect(abroad.status).toBe(422);
  expect(problemOf(abroad)).toMatchObject({
    code: 'destination-not-allowed',
    problem: expect.stringMatching(/Harbour desk texts United Kingdom only, and \+46701740612 in Sweden/),
  });
  for (const costly of ['+449098790123', '+881600000000']) {
    const answer = await send(costly);
    expect([answer.status, problemOf(answer)?.code]).toEqual([422, 'number-costly']);
  }
  const body = textIn('bwt_tomas', TOMAS, mossgate.channel.address, 'Hej');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(202);
  const inbound = await until('it is in', () => ctx.store.messages.one({ direction: 'in', sender: TOMAS }));
  expect((await send(TOMAS, 'Hej!', { inReplyTo: inbound.id })).status).toBe(202);
  expect((await send(TOMAS, 'Hej igen')).status).toBe(202);
  const spoofed = textIn('bwt_sat', '+881600000000', mossgate.channel.address, 'Call me');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, spoofed)).toBe(202);
  const odd = await until('it is in', () => ctx.store.messages.one({ sender: '+881600000000' }));
  expect((await send('+881600000000', 'No', { inReplyTo: odd.id })).status).toBe(422);

  await expect(
    saveDestinations(ctx, SYSTEM, mossgate.channel.id, { countries: ['Sweden', 'Atlantis'], costly: [] }),
  ).rejects.toThrow(/Atlantis/);
  await saveDestinations(ctx, SYSTEM, mossgate.channel.id, { countries: ['Sweden', 'gb'], costly: ['premium'] });
  expect((await send('+46701740605')).status).toBe(202);
  expect((await send('+449098790123')).status).toBe(202);
});

test('money is counted by the price list, and stops at what a day may cost', async () => {
  await forget();
  const { lines } = await savePrices(
    house.ctx,
    SYSTEM,
    mossgate.accountId,
    'destination;kind;price;currency\nGB;;0,50;GBP\n+4477;mobile;0.20;GBP\n*;;1;GBP',
  );
  expect(lines).toBe(3);
  await limits({ 'spend-day': 1_000_000 });
  const answers = [];
  for (let n = 0; n < 6; n++) answers.push((await send(nth(140 + n))).status);
  expect(answers).toEqual([202, 202, 202, 202, 202, 429]);
  await expect(savePrices(house.ctx, SYSTEM, mossgate.accountId, 'to,price,currency\nGB,dear,GBP')).rejects.toThrow(
    /Line 2: “dear” is no price/,
  );
  await savePrices(house.ctx, SYSTEM, mossgate.accountId, '');
  await limits({ 'spend-day': null });
});

test('an unusual rise is held, told, and goes when somebody lets it go; a person is not held', async () => {
  await forget();
  const { ctx } = house;
  await limits({ 'rise-range': 10 });
  for (let n = 0; n < 12; n++) expect((await send(nth(n))).status).toBe(202);
  const held = await viewSetAside(ctx, SYSTEM, false);
  expect(held).toHaveLength(2);
  expect(held[0]?.reason).toMatch(/1[12] texts in an hour to \+44770090….* by Lockbook: held/);
  expect(await recentStops(ctx)).toMatchObject([{ limit: 'rise-range', held: true, orders: 2 }]);
  await until('an alert says so', async () =>
    (await listAlerts(ctx, SYSTEM, false)).find(({ problem }) => /2 messages to \+44770090….* held/.test(problem)),
  );
  await until('the others left', async () => (await ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0);
  const last = held
    .map(({ id }) => id)
    .sort()
    .at(-1) as string;
  expect((await ctx.store.messages.one({ id: last }))?.state).toBe('queued');
  await decideSetAside(ctx, SYSTEM, [`sends:${last}`], 'process again');
  await until('it left', async () => (await ctx.store.messages.one({ id: last }))?.state !== 'queued');
  // What was usual is not unusual.
  await ctx.store.write((unit) =>
    unit.execute(`UPDATE sending_counts SET slot = slot - 90000000 WHERE counted_by = 'range'`),
  );
  await limits({ 'rise-range': null });
});

test('opt-out words without end are believed, and answered up to the limit', async () => {
  await forget();
  const { ctx } = house;
  await limits({ 'recipient-hour': 3 });
  for (let n = 0; n < 8; n++) {
    const body = textIn(`bwt_stop${n}`, nth(171), mossgate.channel.address, n % 2 ? 'START' : 'STOP');
    expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(202);
  }
  await until('all are in', async () => (await ctx.store.messages.count({ direction: 'in', sender: nth(171) })) === 8);
  await settle(house);
  expect(await ctx.store.messages.count({ direction: 'out', recipient: nth(171) })).toBe(3);
  await limits({ 'recipient-hour': null });
});

test('a verification code: nowhere but on the handset, confirmed once, ended by guessing', async () => {
  await forget();
  const { ctx, bench } = house;
  const ask = (body: object) => callApi(house, codesKey, 'POST', '/codes', { from: mossgate.channel.id, ...body });
  const check = (id: string, code: string) => callApi(house, codesKey, 'POST', `/codes/${id}/check`, { code });
  const made = await ask({ to: INES, text: 'Your booking code is {code}.' });
  expect(made.status).toBe(202);
  expect(made.body).toMatchObject({ to: INES, state: 'open', attemptsLeft: 5 });
  const text = await until('it arrived', async () =>
    (await bench.received(INES)).map((each) => each.text).find((each) => each.startsWith('Your booking code')),
  );
  const code = /(\d{6})\.$/.exec(text)?.[1] as string;
  expect(code).toMatch(/^\d{6}$/);
  await settle(house);
  // Neither the message, nor the evidence, nor any other row has it.
  const message = await ctx.store.messages.one({ id: made.body.messageId as string });
  expect(message?.text).toBe('Your booking code is ******.');
  for (const table of [
    'messages',
    'exchanges',
    'message_events',
    'webhook_deliveries',
    'audit_entries',
    'conversations',
  ]) {
    const rows = await ctx.store.select<object>(`SELECT * FROM ${table}`);
    expect(JSON.stringify(rows).includes(code), table).toBe(false);
  }
  const wrong = code === '000000' ? '000001' : '000000';
  expect((await check(made.body.id, wrong)).body).toMatchObject({ state: 'open', attemptsLeft: 4 });
  expect((await check(made.body.id, `${code.slice(0, 3)} ${code.slice(3)}`)).body).toMatchObject({
    state: 'confirmed',
  });
  expect((await check(made.body.id, wrong)).body).toMatchObject({ state: 'confirmed', attemptsLeft: 0 });
  // Another app, and a key without the scope, see nothing.
  expect((await callApi(house, mossgate.apiKey, 'GET', `/codes/${made.body.id}`)).status).toBe(403);

  const guessed = await ask({ to: nth(181) });
  const newer = await ask({ to: nth(181) });
  expect((await check(guessed.body.id, '123456')).body).toMatchObject({ state: 'replaced' });
  let last: unknown;
  for (let n = 0; n < 6; n++) last = (await check(newer.body.id, `00000${n}`)).body.state;
  expect(last).toBe('used-up');
  expect((await ask({ to: nth(182), text: 'No place' })).status).toBe(422);
  const answers = [];
  for (let n = 0; n < 6; n++) answers.push((await ask({ to: nth(183) })).status);
  expect(answers).toEqual([202, 202, 202, 202, 202, 429]);
});

test('codes that nobody confirms end, for the range they go to', async () => {
  await forget();
  const ask = (to: string) => callApi(house, codesKey, 'POST', '/codes', { from: mossgate.channel.id, to });
  for (let n = 0; n < 8; n++) {
    const made = await ask(nth(200 + n));
    for (let guess = 0; guess < 5; guess++)
      await callApi(house, codesKey, 'POST', `/codes/${made.body.id}/check`, { code: 'none' });
  }
  const stopped = await ask(nth(250));
  expect([stopped.status, problemOf(stopped as never)?.code]).toEqual([429, 'codes-unread']);
  expect(await recentStops(house.ctx)).toMatchObject([{ limit: 'codes-unread', subject: '+44770090', orders: 1 }]);
  await liftLimit(house.ctx, SYSTEM, { limit: 'codes-unread', subject: '+44770090', hours: 1 });
  expect((await ask(nth(250))).status).toBe(202);
});

test('the number a visitor leaves is theirs when they type the code, and nothing is texted there before', async () => {
  await forget();
  const { ctx, bench, origin } = house;
  const website = 'https://mossgate.example';
  const { id } = await openWebChat(ctx, SYSTEM, {
    name: 'Website',
    settings: {
      ...WEB_CHAT_START,
      origins: [website],
      askPhone: true,
      answers: 'later',
      replyChannelId: mossgate.channel.id,
    },
  });
  const token = (await ctx.store.channels.one({ id }))?.inbound_token;
  const post = async (part: string, body: object) => {
    const answer = await fetch(`${origin}/chat/${token}/${part}`, {
      method: 'POST',
      headers: { origin: website, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    return { status: answer.status, ...((await answer.json()) as Record<string, unknown>) } as {
      status: number;
      key: string;
      code: string;
      reason: string;
    };
  };
  const begin = (phone: string) => post('begin', { phone, consent: true });
  const ines = await ctx.store.identities.one({ kind: 'phone', value: INES });
  const begun = await begin(INES);
  expect(begun).toMatchObject({ status: 200, code: 'asked' });
  expect((await post('say', { key: begun.key, id: 'said-one', text: 'Is the gate open?' })).status).toBe(202);
  const visitor = await until('it is in', async () => ctx.store.messages.one({ text: 'Is the gate open?' }));
  // Whoever names a number is not the person with that number, and the desk is told.
  const reply = { channelId: mossgate.channel.id, contactId: visitor.contact_id };
  expect((await replyState(ctx, SYSTEM, reply)).refused?.problem).toMatch(/left in the chat, and the code/);
  expect(visitor.contact_id).not.toBe(ines?.contact_id);
  expect((await post('confirm', { key: begun.key, code: '12' })).reason).toMatch(/4 tries are left/);
  const text = await until('the code arrived', async () =>
    (await bench.received(INES)).map((each) => each.text).find((each) => each.startsWith('Ask us: your code')),
  );
  const code = /\d{6}/.exec(text)?.[0];
  expect((await post('confirm', { key: begun.key, code })).status).toBe(200);
  expect((await ctx.store.messages.one({ id: visitor.id }))?.contact_id).toBe(ines?.contact_id);
  expect(
    await replyState(ctx, SYSTEM, { channelId: mossgate.channel.id, contactId: ines?.contact_id ?? '' }),
  ).toMatchObject({ to: INES, refused: undefined });

  // Three codes an hour are a visitor's; the fourth begins without one, and nobody is texted.
  const rest = [await begin(nth(190)), await begin(nth(191)), await begin(nth(192))];
  expect(rest.map((each) => each.code)).toEqual(['asked', 'asked', 'not-sent']);
  expect((await begin('+449098790123')).code).toBe('not-sent');
});
