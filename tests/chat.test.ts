/** Business chat: everything between “verified” and “works”, each made wrong on purpose and named. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { checkAccount, connectProvider, getAccount } from '../src/operations/accounts/accounts';
import { endTestMode, subscribeToEvents } from '../src/operations/accounts/providerChanges';
import { handOverForMe } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { inboundUrl } from '../src/operations/context/channelAddresses';
import { createSender } from '../src/operations/outbound/sendMessage';
import { INES, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { connectTarrow, tarrowCredentials } from './harness/tarrow';
import { until } from './harness/until';

let installation: Installation;
let chat: Awaited<ReturnType<typeof connectTarrow>>;

beforeAll(async () => {
  installation = await startInstallation();
  chat = await connectTarrow(installation, { handOver: false, subscribe: false });
});
afterAll(() => installation.stop());

async function codes() {
  await checkAccount(installation.ctx, SYSTEM, chat.accountId);
  return (await getAccount(installation.ctx, SYSTEM, chat.accountId)).findings.map((finding) => finding.code);
}

function business(settings: object) {
  return installation.bench.change(`tarrow/businesses/${chat.businessId}`, settings);
}

async function proof(hop: string) {
  return installation.ctx.store.proofs.one({ subject_id: chat.channel.id, hop });
}

const send = (to: string, text: string) => createSender(installation.ctx)(SYSTEM, { to, text, from: chat.channel.id });

describe('between verified and working', () => {
  test('a fresh connection says that it has no address and no events', async () => {
    expect(await codes()).toEqual(expect.arrayContaining(['callback-unverified', 'events-not-subscribed']));
  });

  test('another verification word is refused with 403 and breaks the inbound hop with that cause', async () => {
    const url = new URL(inboundUrl(installation.ctx, chat.channel));
    url.search = 'tarrow.ask=confirm&tarrow.word=guessed&tarrow.echo=abc';
    const answer = await fetch(url);
    expect(answer.status).toBe(403);
    expect(await answer.text()).not.toContain('abc');
    expect(await proof('inbound')).toMatchObject({ state: 'broken', cause: 'challenge-wrong' });
  });

  test('handed over, the address is verified, and only the events are still missing', async () => {
    await handOverForMe(installation.ctx, SYSTEM, chat.channel.id);
    const channel = await installation.ctx.store.channels.one({ id: chat.channel.id });
    expect(channel?.challenged_at).not.toBeNull();
    const found = await codes();
    expect(found).not.toContain('callback-unverified');
    expect(found).toContain('events-not-subscribed');
    await installation.bench.type(INES, chat.channel.address, 'Does anybody hear me?', 'chat');
    await settle(installation);
    expect(await installation.ctx.store.messages.count()).toBe(0);
  });

  test('subscribed, messages arrive, with the sender’s name, and the reply window opens', async () => {
    await subscribeToEvents(installation.ctx, SYSTEM, chat.accountId);
    expect(await codes()).toEqual([]);
    await installation.bench.type(INES, chat.channel.address, 'Is the quay free?', 'chat');
    const message = await until('it has arrived', () => installation.ctx.store.messages.one({ direction: 'in' }));
    expect(message.sender).toBe(INES);
    expect(await installation.ctx.store.contacts.one({ id: message.contact_id })).toMatchObject({
      name: 'Ines Calder',
    });
    const answer = await send(INES, 'Two places are.');
    await until(
      'it was read',
      async () => (await installation.ctx.store.messages.one({ id: answer.message.id }))?.state === 'read',
    );
    for (const hop of ['credential', 'outbound', 'receipt', 'inbound'])
      await until(`${hop} is proven`, async () => (await proof(hop))?.state === 'proven');
  });

  test('free text to somebody who never wrote, or not lately, is refused before it is sent', async () => {
    await expect(send(TOMAS, 'Good news!')).rejects.toMatchObject({
      findings: [{ finding: { code: 'window-closed' } }],
    });
    const hours = 25 * 3_600_000;
    await installation.ctx.store.write((unit) =>
      unit.execute('UPDATE reply_windows SET last_inbound_at = last_inbound_at - :hours', { hours }),
    );
    await expect(send(INES, 'Still there?')).rejects.toMatchObject({
      findings: [{ field: 'to', finding: { code: 'window-closed', problem: expect.stringContaining('25 hours ago') } }],
    });
    expect(await installation.ctx.store.outbox.count()).toBe(0);
    await installation.ctx.store.write((unit) =>
      unit.execute('UPDATE reply_windows SET last_inbound_at = last_inbound_at + :hours', { hours }),
    );
  });
});

describe('what the platform says is seen before a message is lost', () => {
  test('development mode, no payment and a test mode left on', async () => {
    await business({ stage: 'building', billing: 'absent' });
    expect(await codes()).toEqual(['mode-development', 'payment-missing']);
    await business({ stage: 'live', billing: 'set' });
    expect(await codes()).toEqual([]);

    const line = installation.world.tarrow[0]?.lines[0];
    const other = installation.world.tarrow[0]?.lines[1];
    await business({ lines: [{ ...line, trial: { ...line?.trial, open: true, joined: [] } }, other] });
    expect(await codes()).toEqual(['test-mode-on']);
    const { findings } = await getAccount(installation.ctx, SYSTEM, chat.accountId);
    expect(findings[0]).toMatchObject({ hop: 'inbound', problem: expect.stringContaining('join harbour-heron') });
    await endTestMode(installation.ctx, SYSTEM, chat.channel.number_id);
    expect(await codes()).toEqual([]);
  });

  test('a token that expires soon, has expired, or lacks a permission', async () => {
    const token = (change: object) => business({ token: { ...installation.world.tarrow[0]?.token, ...change } });
    const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString();
    await token({ ends: inDays(9.5) });
    expect(await codes()).toEqual(['credential-expires']);
    await token({ may: ['settings'] });
    expect(await codes()).toEqual(['credential-lacks-permission']);
    await installation.bench.type(INES, chat.channel.address, 'One more question', 'chat');
    await until('the window is open', () => installation.ctx.store.messages.one({ text: 'One more question' }));
    const refused = await send(INES, 'It cannot leave');
    const row = await until('it failed', async () => {
      const message = await installation.ctx.store.messages.one({ id: refused.message.id });
      return message?.state === 'failed' ? message : undefined;
    });
    expect(row.cause).toBe('credential-lacks-permission');
    await token({ ends: inDays(-1) });
    expect(await checkAccount(installation.ctx, SYSTEM, chat.accountId)).toMatchObject({ cause: 'credential-expired' });
    expect(await proof('credential')).toMatchObject({ state: 'broken', cause: 'credential-expired' });
    await token({});
    expect(await codes()).toEqual([]);
  });

  test('values in each other’s fields are told without calling anyone; a token that has ended at its field', async () => {
    const right = tarrowCredentials(installation);
    const refusal = async (credentials: Record<string, string>) => {
      const error = await connectProvider(installation.ctx, SYSTEM, {
        connector: 'tarrow',
        name: 'T2',
        credentials,
      }).catch((caught) => caught);
      return (error as { findings: { field: string; finding: { code: string } }[] }).findings.map(
        ({ field, finding }) => [field, finding.code],
      );
    };
    expect(await refusal({ ...right, businessId: right.numberId, numberId: right.businessId })).toEqual([
      ['businessId', 'credential-swapped'],
    ]);
    await business({ token: { ...installation.world.tarrow[0]?.token, ends: new Date(0).toISOString() } });
    expect(await refusal(right)).toEqual([['token', 'credential-expired']]);
    await business({ token: installation.world.tarrow[0]?.token });
  });

  test('a number that is on the chat network already is a finding on its channel', async () => {
    const { openChannel } = await import('../src/operations/channels/channels');
    const phone = installation.world.tarrow[0]?.lines[1]?.phone ?? '';
    const number = await installation.ctx.store.numbers.one({ address: phone });
    await openChannel(installation.ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Taken' });
    expect(await codes()).toEqual(['number-taken']);
  });

  test('a seal made with another key is refused; the former key counts while its overlap lasts', async () => {
    const { replaceCredentials } = await import('../src/operations/accounts/accounts');
    const { createHmac } = await import('node:crypto');
    const post = async (key: string) => {
      const body = JSON.stringify({
        messages: [{ id: `tm-${Math.random()}`, from: TOMAS, to: chat.channel.address, said: { words: 'Hej' } }],
      });
      const at = Math.floor(Date.now() / 1000);
      const mac = createHmac('sha256', key).update(`${at}:${body}`).digest('base64');
      const headers = { 'content-type': 'application/json', 'tarrow-seal': `at=${at};mac=${mac}` };
      return (await fetch(inboundUrl(installation.ctx, chat.channel), { method: 'POST', headers, body })).status;
    };
    const right = tarrowCredentials(installation);
    expect(await post('somebody else’s')).toBe(401);
    expect(await post(right.signingKey)).toBe(202);
    const rotated = `tsk_${'n'.repeat(32)}`;
    await replaceCredentials(installation.ctx, SYSTEM, chat.accountId, { ...right, signingKey: rotated }, 1);
    await until('the new key is known', async () => (await post(rotated)) === 202);
    expect(await post(right.signingKey)).toBe(202);
    await installation.ctx.store.write((unit) => unit.accounts.change({ id: chat.accountId }, { previous_until: 1 }));
    await until('the former key has ended', async () => (await post(right.signingKey)) === 401);
    expect(await post(rotated)).toBe(202);
  });
});
