/** What a provider account says of itself, and what is known to fail before it is sent. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { checkAccount, getAccount, setAccountDisabled } from '../src/operations/accounts/accounts';
import { claimNumber, releaseNumber, searchNumbers, setPurpose } from '../src/operations/accounts/numbers';
import { confirmCode, register, startCode } from '../src/operations/accounts/providerChanges';
import { refreshNumbers } from '../src/operations/accounts/readNumbers';
import { openChannel, setChannelPace } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { getThread } from '../src/operations/conversations/conversations';
import { replyState } from '../src/operations/conversations/replyOptions';
import { createSender } from '../src/operations/outbound/sendMessage';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const ODILE = '+33639980417';
let installation: Installation;
let mossgate: Mossgate;
let providerId: string;

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
  providerId = installation.world.accounts[0]?.id ?? '';
});
afterAll(() => installation.stop());
beforeEach(() => provider(installation.world.accounts[0] ?? {}));

/** Settings at the provider, as somebody would make them in its console. */
async function provider(settings: object) {
  await installation.bench.account(providerId, settings as Record<string, unknown>);
  await checkAccount(installation.ctx, SYSTEM, mossgate.accountId);
}

async function findings() {
  return (await getAccount(installation.ctx, SYSTEM, mossgate.accountId)).findings;
}

const codes = async () => (await findings()).filter(({ severity }) => severity !== 'notice').map(({ code }) => code);

async function refusal(to: string, from = mossgate.channel.id) {
  const error = await createSender(installation.ctx)(SYSTEM, { to, text: 'Hello', from }).catch((caught) => caught);
  return (error as { findings?: { finding: { code: string; problem: string } }[] }).findings?.[0]?.finding;
}

function numberSettings(inbound: object) {
  const numbers = installation.world.accounts[0]?.numbers ?? [];
  const present = { method: 'POST', primary: mossgate.inboundUrl, fallback: `${mossgate.inboundUrl}/fallback` };
  return numbers.map((number, index) => (index === 0 ? { ...number, inbound: { ...present, ...inbound } } : number));
}

describe('the inbound address at the provider', () => {
  test('method GET, an empty fallback, the address on another number, and another address here', async () => {
    await provider({ numbers: numberSettings({ method: 'GET' }) });
    expect(await codes()).toEqual(['inbound-method']);
    await provider({ numbers: numberSettings({ fallback: '' }) });
    expect(await codes()).toEqual(['fallback-empty']);
    const numbers = numberSettings({ primary: '' });
    const [first, second, ...rest] = numbers;
    await provider({
      numbers: [first, { ...second, inbound: { method: 'POST', primary: mossgate.inboundUrl, fallback: '' } }, ...rest],
    });
    expect(await findings()).toMatchObject([
      {
        code: 'address-on-another-number',
        hop: 'inbound',
        action: 'set-address',
        remedy: expect.stringContaining('+44 20 7946 0114'),
      },
    ]);
    await provider({ numbers: numberSettings({ primary: 'https://elsewhere.example/hook' }) });
    expect(await codes()).toEqual(['address-not-ours']);
    await provider({ numbers: numberSettings({ primary: '' }) });
    expect(await codes()).toEqual(['address-missing']);
    await provider({ numbers: numberSettings({}) });
    expect(await codes()).toEqual([]);
  });

  test('a text for another number of the account is kept there, and breaks the hop of the channel it was posted to', async () => {
    const { postSigned, textIn } = await import('./harness/mossgate');
    const number = await installation.ctx.store.numbers.one({ address: '+447700900811' });
    const other = await openChannel(installation.ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Lock passages' });
    await postSigned(mossgate.inboundUrl, mossgate.secret, textIn('bwt_other', INES, '+447700900811', 'For the locks'));
    const message = await until('it has arrived', () => installation.ctx.store.messages.one({ text: 'For the locks' }));
    expect(message.channel_id).toBe(other.id);
    const proof = await installation.ctx.store.proofs.one({ subject_id: mossgate.channel.id, hop: 'inbound' });
    expect(proof).toMatchObject({ state: 'broken', cause: 'arrived-on-another-number' });
  });
});

describe('known to fail, said before anything is sent', () => {
  test('a country that is switched off', async () => {
    await provider({ regions: ['GB'] });
    expect(await refusal('+46701740612')).toMatchObject({
      code: 'country-off',
      problem: expect.stringContaining('Sweden'),
    });
    expect(await refusal(INES)).toBeUndefined();
  });

  test('a registration that is missing, waiting or rejected, each with its state', async () => {
    await provider({ registrations: [] });
    expect(await codes()).toContain('registration-missing');
    expect(await refusal(ODILE)).toMatchObject({
      code: 'registration-missing',
      problem: expect.stringContaining('nothing is registered'),
    });
    const handIn = (step: 'brand' | 'use', details: string) =>
      register(installation.ctx, SYSTEM, mossgate.accountId, { country: 'FR', step, name: 'Mossgate', details });
    await handIn('brand', 'A trust that runs canals and locks');
    expect((await refusal(ODILE))?.problem).toContain('the brand is submitted');
    const stateOf = async (step: 'brand' | 'use') => {
      await checkAccount(installation.ctx, SYSTEM, mossgate.accountId);
      const account = await getAccount(installation.ctx, SYSTEM, mossgate.accountId);
      return account.account.facts.registrations?.[0]?.[step];
    };
    await until('the brand is approved', async () => (await stateOf('brand')) === 'approved');
    await handIn('use', 'texts');
    await until('the use is rejected', async () => (await stateOf('use')) === 'rejected');
    expect((await refusal(ODILE))?.problem).toContain('does not say what people will get');
    await handIn('use', 'Passage confirmations to boaters who booked by text');
    await until('the use is approved', async () => (await stateOf('use')) === 'approved');
    expect(await refusal(ODILE)).toBeUndefined();
  });

  test('a trial account and a phone that is not verified; by code it becomes so', async () => {
    await provider({ trial: true, verifiedPhones: [] });
    expect(await codes()).toContain('account-on-trial');
    expect(await refusal(INES)).toMatchObject({ code: 'trial-unverified' });
    await startCode(installation.ctx, SYSTEM, mossgate.accountId, { kind: 'phone', id: '+44 7700 900123' });
    const texted = await until('the code is on the phone', async () =>
      (await installation.bench.received(INES)).find((entry) => entry.text.includes('is your Brackwater code')),
    );
    const confirm = (code: string) =>
      confirmCode(installation.ctx, SYSTEM, mossgate.accountId, { kind: 'phone', id: INES }, code);
    await expect(confirm('000000')).rejects.toMatchObject({
      findings: [{ field: 'code', finding: { code: 'code-wrong' } }],
    });
    await confirm(texted.text.slice(0, 6));
    expect(await refusal(INES)).toBeUndefined();
  });

  test('an account that is switched off; what waits goes when it is on again', async () => {
    await setAccountDisabled(installation.ctx, SYSTEM, mossgate.accountId, true);
    expect(await refusal(INES)).toMatchObject({ code: 'account-disabled' });
    expect(await codes()).toContain('account-disabled');
    await setAccountDisabled(installation.ctx, SYSTEM, mossgate.accountId, false);
    expect(await refusal(INES)).toBeUndefined();
  });

  test('a sender that cannot be answered says so wherever a reply is expected', async () => {
    await refreshNumbers(installation.ctx, mossgate.accountId);
    const number = await installation.ctx.store.numbers.one({ address: '+447700900829' });
    const { id } = await openChannel(installation.ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Shared notices' });
    expect((await findings()).filter(({ subject }) => subject === id)).toMatchObject([
      { code: 'one-way-sender', hop: 'inbound' },
    ]);
    expect(await installation.ctx.store.proofs.one({ subject_id: id, hop: 'inbound' })).toMatchObject({
      state: 'not-applicable',
    });
    const sent = await createSender(installation.ctx)(SYSTEM, { to: INES, text: 'One way', from: id });
    const { conversation } = await getThread(installation.ctx, SYSTEM, sent.message.conversationId);
    const over = { contactId: conversation.contactId, channelId: id };
    expect(await replyState(installation.ctx, SYSTEM, over)).toMatchObject({
      oneWay: true,
      channelName: 'Shared notices',
    });
  });

  test('a pace above the provider’s limit is refused at the field', async () => {
    await expect(setChannelPace(installation.ctx, SYSTEM, mossgate.channel.id, 26)).rejects.toMatchObject({
      findings: [
        { field: 'pace', finding: { code: 'pace-above-limit', problem: expect.stringContaining('at most 25') } },
      ],
    });
    await setChannelPace(installation.ctx, SYSTEM, mossgate.channel.id, 0.5);
    await setChannelPace(installation.ctx, SYSTEM, mossgate.channel.id, 25);
  });
});

describe('numbers', () => {
  test('searched nearest first, claimed with its purpose, given back', async () => {
    const { offers } = await searchNumbers(installation.ctx, SYSTEM, {
      accountId: mossgate.accountId,
      country: 'GB',
      areaCode: '20',
      digits: '144',
    });
    expect(offers[0]).toMatchObject({
      address: '+442079460144',
      price: { monthly: 2_000_000, setup: 1_000_000, currency: 'GBP' },
    });
    expect(offers.every(({ address }) => address.startsWith('+4420'))).toBe(true);
    const best = offers[0];
    await claimNumber(installation.ctx, SYSTEM, {
      accountId: mossgate.accountId,
      offerId: best?.offerId ?? '',
      address: best?.address ?? '',
      purpose: 'service',
    });
    const row = await installation.ctx.store.numbers.one({ address: '+442079460144' });
    expect(row).toMatchObject({ purpose: 'service', gone_at: null });
    await setPurpose(installation.ctx, SYSTEM, row?.id ?? '', 'marketing');
    await releaseNumber(installation.ctx, SYSTEM, row?.id ?? '');
    expect(await installation.ctx.store.numbers.one({ address: '+442079460144' })).toMatchObject({
      gone_at: expect.any(Number),
    });
    const channelNumber = mossgate.channel.number_id;
    await expect(releaseNumber(installation.ctx, SYSTEM, channelNumber)).rejects.toMatchObject({ kind: 'conflict' });
  });

  test('a secret with an end: warned of, then named', async () => {
    await provider({ secretEnds: new Date(Date.now() + 2.5 * 86_400_000).toISOString() });
    expect(await findings()).toEqual(
      expect.arrayContaining([
        expect.objectContaining({
          code: 'credential-expires',
          severity: 'error',
          problem: expect.stringContaining('2 days'),
        }),
      ]),
    );
    await installation.bench.account(providerId, { secretEnds: new Date(0).toISOString() });
    expect(await checkAccount(installation.ctx, SYSTEM, mossgate.accountId)).toMatchObject({
      cause: 'credential-expired',
    });
  });
});
