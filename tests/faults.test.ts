/** What goes wrong outside, made on purpose: what the administrator is told, and that nothing is lost or doubled. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { checkAccount, connectProvider, replaceCredentials } from '../src/operations/accounts/accounts';
import { replaceInboundUrl } from '../src/operations/channels/channels';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import type { OperationError } from '../src/operations/context/errors';
import { refusedThatFit, reworkInbound, reworkRefused } from '../src/operations/inbound/reprocessInbound';
import { getTrail } from '../src/operations/log/trail';
import { createSender } from '../src/operations/outbound/sendMessage';
import { timeId } from '../src/store/ids';
import {
  callApi,
  connectMossgate,
  credentialsOf,
  INES,
  type Mossgate,
  postSigned,
  signedHeaders,
  TOMAS,
  textIn,
} from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { passTime } from './harness/rest';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
});
afterAll(() => installation.stop());
afterEach(() =>
  installation.bench.faults({
    brackwater: {
      down: false,
      slowAnswers: 0,
      signsWithAnotherSecret: false,
      postsTwice: false,
      reportsBeforeAnswer: false,
      reportsReversed: false,
      strayReports: false,
    },
    lockbook: { answers500: false, neverAnswers: false },
  }),
);

/** The code of the finding at a field, when connecting with these credentials is refused. */
async function refusal(change: (right: Record<string, string>) => Record<string, string>) {
  const credentials = change(credentialsOf(installation, 1));
  const error = await connectProvider(installation.ctx, SYSTEM, {
    connector: 'brackwater',
    name: 'Second',
    credentials,
  }).catch((caught) => caught as OperationError);
  return error && 'findings' in error ? error.findings.map(({ field, finding }) => [field, finding.code]) : 'accepted';
}

async function proofOf(hop: string) {
  return installation.ctx.store.proofs.one({ subject_id: mossgate.channel.id, hop });
}

async function send(text: string, to = INES) {
  return (await callApi(installation, mossgate.apiKey, 'POST', '/messages', { to, text })).body.id;
}

async function stateOf(id: string) {
  return (await installation.ctx.store.messages.one({ id }))?.state;
}

async function handsetGot(text: string, number = INES) {
  return (await installation.bench.received(number)).filter((entry) => entry.text === text).length;
}

describe('credentials', () => {
  test('a wrong secret is told from an unknown id', async () => {
    expect(await refusal((right) => ({ ...right, secret: `bws_${'x'.repeat(28)}` }))).toEqual([
      ['secret', 'credential-secret-wrong'],
    ]);
    expect(await refusal((right) => ({ ...right, accountId: 'BWA0000000000' }))).toEqual([
      ['accountId', 'credential-id-unknown'],
    ]);
  });

  test('a space copied along, a truncated secret, swapped values and an empty field are told without calling anyone', async () => {
    const before = (await installation.bench.texts()).length;
    expect(await refusal((right) => ({ ...right, secret: `${right.secret} ` }))).toEqual([
      ['secret', 'credential-stray'],
    ]);
    expect(await refusal((right) => ({ ...right, secret: right.secret?.slice(0, -3) ?? '' }))).toEqual([
      ['secret', 'credential-truncated'],
    ]);
    expect(
      await refusal((right) => ({ ...right, secret: right.accountId ?? '', accountId: right.secret ?? '' })),
    ).toEqual([['accountId', 'credential-swapped']]);
    expect(await refusal((right) => ({ ...right, accountId: '' }))).toEqual([['accountId', 'credential-empty']]);
    expect((await installation.bench.texts()).length).toBe(before);
    expect(await installation.ctx.store.accounts.count()).toBe(1);
  });

  test('an API address nobody answers at is told as such', async () => {
    expect(await refusal((right) => ({ ...right, apiAddress: 'http://127.0.0.1:9/v2' }))).toEqual([
      ['apiAddress', 'provider-unreachable'],
    ]);
  });

  test('an installation that does not allow private addresses never calls one', async () => {
    const guarded = await openAppContext(
      { ...configFromEnvironment(installation.env as never), allowPrivateAddresses: false, logLevel: 'silent' },
      'guarded',
    );
    const attempt = connectProvider(guarded, SYSTEM, {
      connector: 'brackwater',
      name: 'Third',
      credentials: credentialsOf(installation, 1),
    });
    await expect(attempt).rejects.toMatchObject({
      findings: [{ field: 'apiAddress', finding: { code: 'address-not-allowed' } }],
    });
    await guarded.store.close();
  });
});

describe('requests that cannot be taken', () => {
  test('a wrong signature is answered 401, is visible, and breaks the inbound hop until a right one comes', async () => {
    const body = textIn('bwt_forged', TOMAS, mossgate.channel.address, 'free mooring!');
    expect(await postSigned(mossgate.inboundUrl, 'bws_somebody-elses', body)).toBe(401);
    expect(await installation.ctx.store.inbound.one({ cause: 'signature-wrong' })).toMatchObject({
      state: 'refused',
      signature: 'wrong',
      answer_status: 401,
    });
    expect(await proofOf('inbound')).toMatchObject({ state: 'broken', cause: 'signature-wrong' });
    expect(
      await postSigned(
        mossgate.inboundUrl,
        mossgate.secret,
        textIn('bwt_fine', TOMAS, mossgate.channel.address, 'Hej'),
      ),
    ).toBe(202);
    await until('the hop is proven again', async () => (await proofOf('inbound'))?.state === 'proven');
    expect(await installation.ctx.store.messages.count({ text: 'free mooring!' })).toBe(0);
  });

  test('no signature and a stale one are told apart', async () => {
    const body = textIn('bwt_stale', TOMAS, mossgate.channel.address, 'old');
    const unsigned = await fetch(mossgate.inboundUrl, { method: 'POST', body });
    const stale = await fetch(mossgate.inboundUrl, {
      method: 'POST',
      body,
      headers: signedHeaders(mossgate.secret, body, Date.now() - 3_600_000),
    });
    expect([unsigned.status, stale.status]).toEqual([401, 401]);
    expect(await installation.ctx.store.inbound.count({ cause: ['signature-missing', 'signature-stale'] })).toBe(2);
  });

  test('an unknown address is 404 and says no more', async () => {
    const answer = await fetch(`${installation.origin}/in/harbour-desk-nosuchtoken`, { method: 'POST', body: '{}' });
    expect([answer.status, await answer.text()]).toEqual([404, '{"status":"not found"}']);
  });

  test('GET instead of POST is 405, names the method, and breaks the hop with that cause', async () => {
    const answer = await fetch(mossgate.inboundUrl);
    expect([answer.status, answer.headers.get('allow')]).toEqual([405, 'POST']);
    expect(await proofOf('inbound')).toMatchObject({ state: 'broken', cause: 'inbound-method' });
  });

  test('2 MB are refused unread with 413 and noted', async () => {
    const answer = await fetch(mossgate.inboundUrl, { method: 'POST', body: 'x'.repeat(2 * 1024 * 1024) }).catch(
      () => undefined,
    );
    expect(answer?.status ?? 413).toBe(413);
    const noted = await until('it is noted', () => installation.ctx.store.inbound.one({ cause: 'inbound-too-large' }));
    expect(noted.body.length).toBe(0);
  });

  test('signed nonsense is kept, answered 422 with the reason, and can be read after all once it makes sense', async () => {
    const broken = '{"events":[{"kind":"text-in","id":"bwt_odd"';
    const answer = await fetch(mossgate.inboundUrl, {
      method: 'POST',
      headers: signedHeaders(mossgate.secret, broken),
      body: broken,
    });
    expect([answer.status, await answer.json()]).toEqual([422, { status: 'the body is not JSON' }]);
    const kept = await installation.ctx.store.inbound.one({ state: 'unreadable' });
    expect(kept?.body.toString()).toBe(broken);

    // as if the profile had been fixed: the same request now reads as a text.
    const body = Buffer.from(textIn('bwt_odd', TOMAS, mossgate.channel.address, 'Readable after all'));
    await installation.ctx.store.write((unit) => unit.inbound.change({ id: kept?.id ?? '' }, { body }));
    await reworkInbound(installation.ctx, SYSTEM, kept?.id ?? '');
    await until('it is in', () => installation.ctx.store.messages.one({ text: 'Readable after all' }));
  });
});

describe('refused for the secret, which is then fixed', () => {
  test('what was refused is taken as of when it came, once, and a forgery never', async () => {
    const { ctx, bench, world } = installation;
    const remote = world.accounts[0] as { id: string; secret: string };
    const replaced = 'bws_replaced00000000000000000000';
    const post = (text: string, secret: string, at?: number) => {
      const body = textIn(`bwt_${text.length}`, TOMAS, mossgate.channel.address, text);
      return fetch(mossgate.inboundUrl, { method: 'POST', headers: signedHeaders(secret, body, at), body });
    };
    // The stand-in itself tries older posts again meanwhile; here it is about these alone.
    const saidIn = ({ body }: { body: Buffer }) => /"text":"([^"]*)"/.exec(body.toString())?.[1] ?? '';
    const fitting = async () =>
      (await refusedThatFit(ctx, mossgate.channel.id)).map(saidIn).filter((text) => text.startsWith('We are '));
    await bench.account(remote.id, { secret: replaced });
    for (const text of ['We are early', 'We are waiting now']) expect((await post(text, replaced)).status).toBe(401);
    expect((await post('A forgery of somebody', 'bws_nobody0000000000000000000000')).status).toBe(401);
    expect((await post('An old one comes once more', replaced, Date.now() - 3_600_000)).status).toBe(401);
    expect(await fitting()).toEqual([]);
    const first = (await ctx.store.inbound.all({ state: 'refused' })).find((row) => saidIn(row) === 'We are early');
    await expect(reworkInbound(ctx, SYSTEM, first?.id ?? '')).rejects.toThrow(/refused again/);

    // Very many forgeries of long before stand in nobody's way.
    const forgery = (await ctx.store.inbound.all({ state: 'refused' })).find(
      (row) => saidIn(row) === 'A forgery of somebody',
    );
    await ctx.store.write((unit) =>
      unit.inbound.insert(
        Array.from({ length: 600 }, (_, index) => ({
          ...(forgery as NonNullable<typeof forgery>),
          id: `${timeId('inb', Date.now() - 86_400_000)}${String(index).padStart(3, '0')}`,
        })),
      ),
    );
    await replaceCredentials(ctx, SYSTEM, mossgate.accountId, { ...credentialsOf(installation), secret: replaced });
    // The first is posted once more by the provider itself before anybody works it through.
    await until('the new secret is taken', async () => (await post('We are early', replaced)).status === 202);
    // What is in by itself need not be worked through.
    await until('it is worked through', () => ctx.store.messages.one({ text: 'We are early' }));
    expect(await fitting()).toEqual(['We are waiting now']);
    const agent: Actor = { kind: 'user', id: 'usr_a', name: 'Agent', role: 'agent' };
    await expect(reworkRefused(ctx, agent, mossgate.channel.id)).rejects.toThrow(/administrator/);
    expect(await reworkRefused(ctx, SYSTEM, mossgate.channel.id)).toBeGreaterThanOrEqual(1);
    const late = await until('the other is in', () => ctx.store.messages.one({ text: 'We are waiting now' }));
    expect(await ctx.store.messages.count({ text: 'We are early' })).toBe(1);
    expect(await ctx.store.messages.count({ text: 'A forgery of somebody' })).toBe(0);
    expect(await ctx.store.messages.count({ text: 'An old one comes once more' })).toBe(0);
    expect(await fitting()).toEqual([]);
    const { legs } = await getTrail(ctx, SYSTEM, late.id);
    expect(legs[0]?.hops.find(({ place }) => place === 'Inbound URL')?.what).toBe(
      'Refused with 401 at first, and taken later; signature valid',
    );
    await bench.account(remote.id, { secret: remote.secret });
    await replaceCredentials(ctx, SYSTEM, mossgate.accountId, credentialsOf(installation));
    await until('the old secret is taken again', async () => (await post('All is well', remote.secret)).status === 202);
  });
});

describe('the same thing twice and things in odd order', () => {
  test('a text posted twice is one message, and its trail says so', async () => {
    const body = textIn('bwt_twice', TOMAS, mossgate.channel.address, 'Only once');
    expect([
      await postSigned(mossgate.inboundUrl, mossgate.secret, body),
      await postSigned(mossgate.inboundUrl, mossgate.secret, body),
    ]).toEqual([202, 202]);
    const message = await until('it is in', () => installation.ctx.store.messages.one({ text: 'Only once' }));
    const trail = await until('the repeat was worked through', async () => {
      const found = await getTrail(installation.ctx, SYSTEM, message.id);
      return JSON.stringify(found.legs).includes('the repeats changed nothing') ? found : undefined;
    });
    expect(trail.legs).toHaveLength(1);
    expect(await installation.ctx.store.messages.count({ text: 'Only once' })).toBe(1);
  });

  test('a provider that posts everything twice changes nothing', async () => {
    await installation.bench.faults({ brackwater: { postsTwice: true } });
    await installation.bench.type(INES, mossgate.channel.address, 'Posted twice');
    await until('it is in', () => installation.ctx.store.messages.one({ text: 'Posted twice' }));
    const id = await send('Answered once');
    await until('it is delivered', async () => (await stateOf(id)) === 'delivered');
    await until(
      'all requests are worked through',
      async () => (await installation.ctx.store.inbound.count({ state: 'stored' })) === 0,
    );
    expect(await installation.ctx.store.messages.count({ text: 'Posted twice' })).toBe(1);
    expect(await handsetGot('Answered once')).toBe(1);
  });

  test('a receipt before the provider’s own answer', async () => {
    await installation.bench.faults({ brackwater: { reportsBeforeAnswer: true } });
    const id = await send('Early receipt');
    await until('it is delivered', async () => (await stateOf(id)) === 'delivered');
    await until('the trail tells it', async () =>
      JSON.stringify((await getTrail(installation.ctx, SYSTEM, id)).legs).includes('before the provider’s own answer'),
    );
  });

  test('receipts in reverse order leave it delivered', async () => {
    await installation.bench.faults({ brackwater: { reportsReversed: true } });
    const id = await send('Reversed');
    await until(
      'both receipts are in',
      async () => (await installation.ctx.store.events.count({ message_id: id, kind: ['sent', 'delivered'] })) === 2,
    );
    expect(await stateOf(id)).toBe('delivered');
    expect(JSON.stringify((await getTrail(installation.ctx, SYSTEM, id)).legs)).toContain('reverse order');
  });

  test('a receipt for a message nobody knows is kept and harms nothing', async () => {
    await installation.bench.faults({ brackwater: { strayReports: true } });
    const id = await send('With a stray');
    await until(
      'the stray is kept',
      async () =>
        (await installation.ctx.store.unmatched.count({ provider_message_id: 'bwt_stray', matched_at: null })) > 0,
    );
    await until('it is delivered', async () => (await stateOf(id)) === 'delivered');
  });
});

describe('the handset and the provider', () => {
  test('a handset that is off: failed, with the cause and the fix on the trail', async () => {
    await installation.bench.setHandset(TOMAS, { power: 'off' });
    const id = await send('Are you there?', TOMAS);
    await until('it failed', async () => (await stateOf(id)) === 'failed');
    const trail = await getTrail(installation.ctx, SYSTEM, id);
    const failed = trail.legs[0]?.hops.find((hop) => hop.failure);
    expect(failed).toMatchObject({
      place: 'Handset',
      state: 'broken',
      failure: { code: 'handset-unreachable', remedy: expect.stringMatching(/\w/) },
    });
    await installation.bench.setHandset(TOMAS, { power: 'on' });
  });

  test('a number nobody has', async () => {
    const id = await send('Hello?', '+447700900998');
    await until('it failed', async () => (await stateOf(id)) === 'failed');
    expect((await installation.ctx.store.messages.one({ id }))?.cause).toBe('number-not-in-service');
  });

  test('no credit: refused at once, the outbound hop is broken, and a delivery fixes it', async () => {
    const account = installation.world.accounts[0]?.id ?? '';
    await installation.bench.account(account, { credit: 1000 });
    const id = await send('Too dear');
    await until('it failed', async () => (await stateOf(id)) === 'failed');
    expect(await proofOf('outbound')).toMatchObject({ state: 'broken', cause: 'credit-gone' });
    await installation.bench.account(account, { credit: 90_000_000 });
    const next = await send('Affordable');
    await until('it is delivered', async () => (await stateOf(next)) === 'delivered');
    await until('the hop is proven', async () => (await proofOf('outbound'))?.state === 'proven');
  });

  test('a provider that is down for a while: tried again, delivered once', async () => {
    await installation.bench.faults({ brackwater: { down: true } });
    const id = await send('Through the outage');
    await passTime(
      installation,
      until(
        'a second attempt failed',
        async () => (await installation.ctx.store.events.count({ message_id: id, kind: 'deferred' })) >= 2,
      ),
    );
    expect(await installation.ctx.store.messages.one({ id })).toMatchObject({
      state: 'queued',
      cause: 'provider-unreachable',
    });
    await installation.bench.faults({ brackwater: { down: false } });
    await passTime(
      installation,
      until('it is delivered', async () => (await stateOf(id)) === 'delivered'),
    );
    expect(await handsetGot('Through the outage')).toBe(1);
  });

  test('sent faster than the provider allows: it waits as asked and sends again', async () => {
    const account = installation.world.accounts[0]?.id ?? '';
    await installation.bench.account(account, { perSecond: 2 });
    const ids = await Promise.all(Array.from({ length: 6 }, (_, index) => send(`Throttled ${index}`)));
    await passTime(
      installation,
      until(
        'all are delivered',
        async () => (await installation.ctx.store.messages.count({ id: ids, state: 'delivered' })) === 6,
      ),
    );
    await installation.bench.account(account, { perSecond: 30 });
    expect(await installation.ctx.store.events.count({ message_id: ids, cause: 'throttled' })).toBeGreaterThan(0);
    expect((await installation.bench.received(INES)).filter((entry) => entry.text.startsWith('Throttled')).length).toBe(
      6,
    );
  });
});

describe('the app', () => {
  test('answers 500, then 204: tried again with the same id, delivered once', async () => {
    // An event of the same conversation that failed before it would be tried again before it.
    await until(
      'what went before is told',
      async () => (await installation.ctx.store.deliveries.count({ state: ['due', 'leased'] })) === 0,
    );
    await installation.bench.faults({ lockbook: { answers500: true } });
    await installation.bench.type(INES, mossgate.channel.address, 'While Lockbook is ill');
    const message = await until('it is in', () =>
      installation.ctx.store.messages.one({ text: 'While Lockbook is ill' }),
    );
    await until('an attempt failed', () =>
      installation.ctx.store.deliveries.one({ message_id: message.id, cause: 'app-error' }),
    );
    expect(await installation.ctx.store.proofs.one({ subject_id: mossgate.appId, hop: 'call-out' })).toMatchObject({
      state: 'broken',
      cause: 'app-error',
    });
    await installation.bench.faults({ lockbook: { answers500: false } });
    const done = await until('it is delivered', () =>
      installation.ctx.store.deliveries.one({ message_id: message.id, state: 'delivered' }),
    );
    expect(done.attempts).toBeGreaterThan(1);
    const attempts = await installation.ctx.store.exchanges.all({ subject_id: done.id });
    expect(new Set(attempts.map((attempt) => attempt.request.headers['webhook-id'])).size).toBe(1);
    expect(
      (await installation.bench.lockbook()).events.filter(
        (event) => event.verified && event.message?.text === 'While Lockbook is ill',
      ),
    ).toHaveLength(1);
  });

  test('takes too long: the cause is the time limit, and later events of that conversation wait their turn', async () => {
    await installation.bench.faults({ lockbook: { neverAnswers: true } });
    await installation.bench.type(TOMAS, mossgate.channel.address, 'first of two');
    const first = await until('the first is in', () => installation.ctx.store.messages.one({ text: 'first of two' }));
    await installation.bench.type(TOMAS, mossgate.channel.address, 'second of two');
    const second = await until('the second is in', () =>
      installation.ctx.store.messages.one({ text: 'second of two' }),
    );
    await until('the attempt timed out', () =>
      installation.ctx.store.deliveries.one({ message_id: first.id, cause: 'app-timeout' }),
    );
    expect(await installation.ctx.store.deliveries.one({ message_id: second.id })).toMatchObject({
      attempts: 0,
      state: 'due',
    });
    await installation.bench.faults({ lockbook: { neverAnswers: false } });
    await until(
      'both are delivered',
      async () =>
        (await installation.ctx.store.deliveries.count({ message_id: [first.id, second.id], state: 'delivered' })) ===
        2,
    );
    const { events } = await installation.bench.lockbook();
    const order = events.map((event) => event.message?.text).filter((text) => text?.endsWith('of two'));
    expect(order).toEqual(['first of two', 'second of two']);
  });
});

describe('changes make the hops they touch hollow', () => {
  test('a new secret: every hop of the account’s channels; the old one is refused from then on', async () => {
    const { ctx, bench, world } = installation;
    const account = world.accounts[0]?.id ?? '';
    const secret = `bws_${'N'.repeat(28)}`;
    await bench.account(account, { secret });
    expect(await checkAccount(ctx, SYSTEM, mossgate.accountId)).toEqual({
      state: 'refused',
      cause: 'credential-secret-wrong',
    });
    expect(await proofOf('credential')).toMatchObject({ state: 'broken' });
    await replaceCredentials(ctx, SYSTEM, mossgate.accountId, { ...credentialsOf(installation), secret });
    expect(await ctx.store.proofs.count({ subject_id: mossgate.channel.id, state: 'unproven' })).toBe(3);
    expect(await proofOf('credential')).toMatchObject({ state: 'proven' });
    await until(
      'the old secret is refused',
      async () =>
        (await postSigned(
          mossgate.inboundUrl,
          mossgate.secret,
          textIn('bwt_o', INES, mossgate.channel.address, 'x'),
        )) === 401,
    );
    mossgate.secret = secret;
  });

  test('a new inbound URL: inbound and receipt; the old address is gone', async () => {
    const { ctx } = installation;
    await postSigned(mossgate.inboundUrl, mossgate.secret, textIn('bwt_n', INES, mossgate.channel.address, 'before'));
    await until('inbound is proven', async () => (await proofOf('inbound'))?.state === 'proven');
    await replaceInboundUrl(ctx, SYSTEM, mossgate.channel.id);
    expect(await proofOf('inbound')).toMatchObject({ state: 'unproven', note: 'the inbound URL was replaced' });
    expect(await proofOf('receipt')).toMatchObject({ state: 'unproven' });
    await until(
      'the old address is gone',
      async () =>
        (await postSigned(
          mossgate.inboundUrl,
          mossgate.secret,
          textIn('bwt_p', INES, mossgate.channel.address, 'x'),
        )) === 404,
    );
  });
});

describe('roles', () => {
  const person = (role: 'administrator' | 'agent' | 'viewer'): Actor => ({
    kind: 'user',
    id: `usr_${role}`,
    name: role,
    role,
  });

  test('are enforced in the operation, whatever page was used', async () => {
    const { ctx } = installation;
    const sender = createSender(ctx);
    await expect(sender(person('viewer'), { to: INES, text: 'x' })).rejects.toMatchObject({ kind: 'forbidden' });
    await expect(sender(person('agent'), { to: INES, text: 'allowed' })).resolves.toMatchObject({ status: 202 });
    await expect(checkAccount(ctx, person('agent'), mossgate.accountId)).rejects.toMatchObject({ kind: 'forbidden' });
    await expect(replaceInboundUrl(ctx, person('viewer'), mossgate.channel.id)).rejects.toMatchObject({
      kind: 'forbidden',
    });
    const reader: Actor = { kind: 'app', id: mossgate.appId, name: 'Lockbook', keyId: 'k', scopes: ['messages:read'] };
    await expect(sender(reader, { to: INES, text: 'x' })).rejects.toMatchObject({ kind: 'forbidden' });
  });

  test('what was changed is in the audit log, without any secret', async () => {
    const entries = await installation.ctx.store.audit.all();
    const actions = entries.map((entry) => entry.action);
    expect(actions).toEqual(
      expect.arrayContaining([
        'account.connected',
        'channel.opened',
        'channel.handed-over',
        'key.created',
        'account.credentials-replaced',
      ]),
    );
    expect(JSON.stringify(entries)).not.toMatch(/bws_|wgk_[A-Za-z0-9]{10}|whsec_/);
  });
});
