/** What Diagnosis builds on, over real wires: refused calls, Windgap's own troubles, reports, and why a test failed. */
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { replaceCredentials } from '../src/operations/accounts/accounts';
import { createApiKey, revokeApiKey } from '../src/operations/apps/apiKeys';
import { listRefusedCalls } from '../src/operations/apps/refusedCalls';
import { SYSTEM } from '../src/operations/context/actor';
import { reportRuns } from '../src/operations/deliveryTests/deliveryTests';
import { contrastMessages } from '../src/operations/diagnosis/contrast/messages';
import { type Complaint, diagnoseComplaint } from '../src/operations/diagnosis/diagnose';
import { makeGood } from '../src/operations/diagnosis/makeGood';
import { reportOf } from '../src/operations/diagnosis/report';
import { createSender } from '../src/operations/outbound/sendMessage';
import { examineNow } from '../src/operations/readiness/readiness';
import { createSealer } from '../src/store/sealing';
import { testBench } from './harness/deliveryTests';
import {
  callApi,
  connectMossgate,
  credentialsOf,
  INES,
  type Mossgate,
  postSigned,
  TOMAS,
  textIn,
} from './harness/mossgate';
import { type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

const kept = () => house.ctx.store.refusedCalls.all(undefined, { order: [['id', 'ASC']] });
const about = (complaint: Partial<Complaint> & Pick<Complaint, 'symptom'>): Complaint => ({
  scope: { channel: mossgate.channel.id },
  answers: {},
  ...complaint,
});

describe('calls that were refused', () => {
  test('are kept with whose they were, what was answered and what was sent', async () => {
    const { ctx, origin } = house;
    const call = (path: string, init: RequestInit, key = mossgate.apiKey) =>
      fetch(`${origin}/api/v1${path}`, { ...init, headers: { authorization: `Bearer ${key}`, ...init.headers } });
    const post = (body: string, headers = {}) => ({ method: 'POST', body, headers });
    const order = JSON.stringify({ to: INES, text: 'Hello' });
    const once = { 'idempotency-key': 'k' };
    await call('/messages', post(order, once));
    const statuses = [
      await call('/messages', post('to=1')),
      await call('/messages', post(JSON.stringify({ to: 'nobody', text: 'x' }))),
      await call('/messages', post(JSON.stringify({ to: INES, text: 'Other' }), once)),
      await call('/sms', post(order)),
      await call('/messages', { method: 'PUT' }),
      await call('/messages/msg_none', { method: 'GET' }),
      await call('/messages', post(order), 'wgk_nobodys0000000000000000000000'),
      await call('/messages', post(order), 'a-password-by-mistake'),
    ].map(({ status }) => status);
    expect(statuses).toEqual([400, 422, 422, 404, 405, 404, 401, 401]);
    const rows = await until('all are kept', async () => {
      const all = await kept();
      return all.length >= 8 ? all : undefined;
    });
    expect(rows.map(({ status }) => status)).toEqual(statuses);
    expect(rows[0]).toMatchObject({ app_id: mossgate.appId, path: '/api/v1/messages', body: 'to=1', times: 1 });
    expect(rows[1]?.said).toContain('nobody');
    expect(rows[6]).toMatchObject({ app_id: null, key_hint: 'wgk_nobo…', body: null });
    // What looks like nothing of ours may be a password.
    expect(rows[7]?.key_hint).toBe('not a key of Windgap');
    expect(JSON.stringify(rows)).not.toContain('password-by');
    expect((await listRefusedCalls(ctx, SYSTEM, mossgate.appId)).map(({ status }) => status)).toEqual(
      statuses.slice(0, 6).reverse(),
    );
  });

  test('alike within a minute are one row that counts them, however many', async () => {
    const before = (await kept()).length;
    await Promise.all(
      Array.from({ length: 300 }, () => callApi(house, 'wgk_flood000000000000000000000000', 'GET', '/messages')),
    );
    await until(
      'all are counted',
      async () => (await house.ctx.store.refusedCalls.one({ key_hint: 'wgk_floo…' }))?.times === 300,
    );
    expect((await kept()).length).toBe(before + 1);
  });

  test('begin what is said of an app whose messages do not go out', async () => {
    const { ctx } = house;
    const { id, key } = await createApiKey(ctx, SYSTEM, { appId: mossgate.appId, name: 'Short-lived' });
    await callApi(house, key, 'POST', '/messages', { recipient: INES });
    const seen = () =>
      diagnoseComplaint(ctx, SYSTEM, about({ symptom: 'app-cannot-send', scope: { app: mossgate.appId } }));
    const refused = await until('it is known', async () => {
      const view = await seen();
      // Those refused before are kept by then; this one is a moment later.
      return /recipient/.test(view.cause?.explanation ?? '') ? view : undefined;
    });
    expect(refused).toMatchObject({
      verdict: 'determined',
      where: { segment: { from: 'asker', to: 'windgap', sure: true } },
    });
    expect(refused.cause).toMatchObject({ code: 'call-refused' });
    expect(refused.cause?.explanation).toMatch(/422 to POST \/api\/v1\/messages.*recipient/);
    await revokeApiKey(ctx, SYSTEM, id);
    // The right call after it shows that it is over.
    expect((await callApi(house, mossgate.apiKey, 'POST', '/messages', { to: INES, text: 'Right' })).status).toBe(202);
    expect((await seen()).cause?.code).not.toBe('call-refused');
  });
});

test('a key that opens no secret is named, on every symptom of sending', async () => {
  const { ctx } = house;
  const account = await ctx.store.accounts.one({ id: mossgate.accountId });
  const sealed = (sealed_credentials: string) =>
    ctx.store.write((unit) => unit.accounts.change({ id: mossgate.accountId }, { sealed_credentials }));
  await sealed(createSealer(randomBytes(32)).seal({ secret: 'of another key' }));
  const named = () => diagnoseComplaint(ctx, SYSTEM, about({ symptom: 'nothing-arrives' }));
  const during = await named();
  await sealed(account?.sealed_credentials ?? '');
  expect([during.verdict, during.cause?.code]).toEqual(['determined', 'sealing-key-lost']);
  expect((await named()).cause?.code).not.toBe('sealing-key-lost');
});

test('a database that another program holds is named, and not the engine that waits for it', async () => {
  const { ctx, env } = house;
  await killHard(house.engine);
  // As it is once the engine has not been heard of for a while.
  await ctx.store.write((unit) => unit.settings.put({ name: 'engine-seen', value: 1 }));
  const codes = async () => (await examineNow(ctx)).open.map(({ code }) => code);
  expect(await codes()).toContain('engine-silent');
  const sqlite = await import('sqlite3');
  const other = new sqlite.default.Database(join(env.WINDGAP_DATA ?? '', 'windgap.db'));
  const run = (sql: string) => new Promise<boolean>((resolve) => other.run(sql, (error) => resolve(error === null)));
  await until('it is held', () => run('BEGIN IMMEDIATE'));
  const held = await codes();
  await run('ROLLBACK');
  other.close();
  expect(held).toContain('database-locked');
  expect(held).not.toContain('engine-silent');
  await house.startEngine();
  await until('the engine is heard again', async () => !(await codes()).some((code) => /locked|silent/.test(code)));
});

test('a report has the exact request and answer, ids and times, and no secret', async () => {
  const { ctx, bench } = house;
  await bench.faults({ brackwater: { refusesOddly: true } });
  const { message } = await createSender(ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'For the report' });
  await until('it is refused', () => ctx.store.messages.one({ id: message.id, state: 'failed' }));
  await bench.faults({ brackwater: { refusesOddly: false } });
  const scope = { channel: mossgate.channel.id, message: message.id };
  const { text } = await reportOf(ctx, SYSTEM, about({ symptom: 'nothing-arrives', scope }));
  expect(text).toContain('Main account has not');
  expect(text).toContain('held-4711');
  expect(text).toContain(`"reference":"${message.id}"`);
  expect(text).toContain(message.id);
  expect(text).toMatch(/\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z/);
  expect(text).not.toContain(mossgate.secret);
  expect(text).not.toContain(Buffer.from(`:${mossgate.secret}`).toString('base64').slice(8, 24));
});

test('a delivery test that fails says why, in JUnit as well', async () => {
  const on = testBench(house, mossgate);
  await house.bench.faults({ brackwater: { refusesOddly: true } });
  const content = {
    stimulus: { kind: 'order', channel: mossgate.channel.id, phone: INES, text: 'Tested {{ run }}' },
    expectations: [{ expect: 'delivered', within: 5 }],
  };
  const { state, run } = await on.verdictsOf(content, 'Sends');
  await house.bench.faults({ brackwater: { refusesOddly: false } });
  expect(state).toBe('failed');
  expect(run?.problem).toMatch(/Main account has not.*Held by the desk for local numbers.*Fix: /s);
  const { junit } = await reportRuns(house.ctx, SYSTEM, { run: run?.id ?? '' });
  expect(junit).toContain('Held by the desk for local numbers');
});

test('what was refused while the secret was another is lost, read again with one button; a forgery was never on the way', async () => {
  const { ctx, bench, world } = house;
  const remote = world.accounts[0] as { id: string; secret: string };
  const replaced = 'bws_replaced00000000000000000000';
  const post = (text: string, secret: string) =>
    postSigned(mossgate.inboundUrl, secret, textIn(`bwt_${text.length}`, TOMAS, mossgate.channel.address, text));
  const seen = async () => {
    const complaint = about({ symptom: 'replies-missing' });
    const { where } = await diagnoseComplaint(ctx, SYSTEM, complaint);
    const chosen = about({
      symptom: 'replies-missing',
      scope: { channel: mossgate.channel.id, message: where.message?.id },
      answers: { 'bench-in': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes', 'provider-log-has-it': 'unknown' },
    });
    return { chosen, view: await diagnoseComplaint(ctx, SYSTEM, chosen) };
  };
  expect(await post('A forgery', 'bws_nobody0000000000000000000000')).toBe(401);
  expect(await post('All is well here', mossgate.secret)).toBe(202);
  await until('it is in', () => ctx.store.messages.one({ text: 'All is well here' }));
  expect((await seen()).view).toMatchObject({ verdict: 'well' });
  await bench.account(remote.id, { secret: replaced });
  expect(await post('Is the slip still free', replaced)).toBe(401);
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, { ...credentialsOf(house), secret: replaced });
  await until('the new secret is taken', async () => (await post('And now it is known', replaced)) === 202);
  await until('it is in', () => ctx.store.messages.one({ text: 'And now it is known' }));
  const { chosen, view } = await seen();
  expect([view.verdict, view.healed?.kind, view.healed?.lost.length]).toEqual(['healed', 'requests', 1]);
  expect(await makeGood(ctx, SYSTEM, createSender(ctx), chosen)).toEqual({ done: 1, refused: [] });
  await until('what was lost is in', () => ctx.store.messages.one({ text: 'Is the slip still free' }));
  expect(await ctx.store.messages.count({ text: 'A forgery' })).toBe(0);
  expect((await seen()).view.verdict).toBe('well');
  await bench.account(remote.id, { secret: remote.secret });
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, credentialsOf(house));
});

describe('a provider that no receipt came from is asked what became of the text', () => {
  const LATE = 60_000;
  const ASKED_AGAIN = 21_000;
  /** A text that is sent under a switched fault, and how it is judged so long afterwards. */
  async function judged(faults: Record<string, boolean>, text: string) {
    const { ctx, bench } = house;
    await bench.faults({ brackwater: faults });
    const { message } = await createSender(ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text });
    await until('it is taken', () => ctx.store.messages.one({ id: message.id, state: 'sent' }));
    const answers = { 'bench-out': 'unknown', 'phone-gets-others': 'unknown' } as const;
    const scope = { channel: mossgate.channel.id, message: message.id };
    const judge = () => diagnoseComplaint(ctx, SYSTEM, about({ symptom: 'nothing-arrives', scope, answers }));
    return { judge, message };
  }

  test('it has it still: the fault lies beyond it, in its own word', async () => {
    const { judge } = await judged({ losesTexts: true }, 'Lost there');
    const { where } = await judge();
    expect(where.known.at(-1)?.said).toMatch(/asked now, Main account says “taken”/);
    expect([where.segment.from, where.segment.to]).toEqual(['provider', 'phone']);
    await house.bench.faults({ brackwater: { losesTexts: false } });
  });

  test('it arrived, and its receipts do not come here', async () => {
    const { judge, message } = await judged({ sendsNoReports: true }, 'Arrived, and nobody says so');
    await until('it shows on the phone', async () =>
      (await house.bench.received(INES)).some(({ text }) => text === 'Arrived, and nobody says so'),
    );
    await house.bench.moveClock(LATE);
    const view = await until('the provider knows of it', async () => {
      const now = await judge();
      await house.bench.moveClock(ASKED_AGAIN);
      return now.cause && now;
    });
    expect([view.verdict, view.cause?.code]).toEqual(['determined', 'receipts-not-coming']);
    expect(view.where.segment.whole).toBe(true);
    // The word of the provider is evidence; the message is as receipts have left it.
    expect((await house.ctx.store.messages.one({ id: message.id }))?.state).toBe('sent');
  });

  test('it was lost on the way', async () => {
    await house.bench.setHandset(INES, { power: 'off' });
    const { judge, message } = await judged({ sendsNoReports: true }, 'Lost, and nobody says so');
    const view = await until('the provider knows of it', async () => {
      const now = await judge();
      await house.bench.moveClock(ASKED_AGAIN);
      return now.cause && now;
    });
    expect([view.verdict, view.cause?.code]).toEqual(['determined', 'handset-unreachable']);
    expect((await house.ctx.store.messages.one({ id: message.id }))?.state).toBe('sent');
    await house.bench.setHandset(INES, { power: 'on' });
  });

  test('it knows nothing of it, though it took it', async () => {
    const { judge, message } = await judged({ sendsNoReports: true }, 'Taken, and not known');
    const { ctx } = house;
    await ctx.store.write((unit) => unit.messages.change({ id: message.id }, { provider_message_id: 'bwt_nobodys' }));
    const { where } = await judge();
    expect(where.known.find(({ place }) => place === 'provider')).toMatchObject({ has: false });
    expect(where.known.find(({ place }) => place === 'provider')?.said).toContain('No such text');
    await house.bench.faults({ brackwater: { sendsNoReports: false } });
  });
});

test('ten thousand messages are compared, and what splits them is found', async () => {
  const { ctx } = house;
  const [like] = await ctx.store.messages.all({ direction: 'out' }, { limit: 1 });
  const now = ctx.now();
  const rows = Array.from({ length: 10_000 }, (_, n) => {
    const abroad = n % 40 === 0;
    return {
      ...(like as NonNullable<typeof like>),
      id: `msg_c${String(n).padStart(9, '0')}`,
      recipient: abroad ? `+3363998${String(n).padStart(4, '0')}` : `+4477009${String(n).padStart(5, '0')}`,
      state: (abroad && n > 5000) || n % 997 === 3 ? ('failed' as const) : ('delivered' as const),
      cause: null,
      provider_message_id: `many_${n}`,
      in_reply_to: null,
      created_at: now - 86_400_000 + n * 5000,
    };
  });
  await ctx.store.write((unit) => unit.messages.insert(rows));
  const { contrast, compared } = await contrastMessages(ctx, { channel: mossgate.channel.id });
  expect(compared).toBeGreaterThan(9000);
  const [first] = contrast.found === 'split' ? contrast.splits : [];
  // As clear by its range as by its country, which is the whole of it here.
  expect(['FR', '+336399…']).toContain(first?.value);
  expect(Math.abs((first?.since ?? 0) - (now - 86_400_000 + 5000 * 5000))).toBeLessThan(300_000);
});
