/** What messages are sent from: numbers for a purpose, names of letters, short codes, and what is known of each before it is used. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connectProvider, replaceCredentials } from '../src/operations/accounts/accounts';
import { claimNumber, searchNumbers, setPurpose } from '../src/operations/accounts/numbers';
import { addTrunkNumbers, examineNumbers } from '../src/operations/accounts/trunkNumbers';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { getChannel, openChannel } from '../src/operations/channels/channels';
import { listNameRegistrations, noteNameRegistration } from '../src/operations/channels/nameRegistrations';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { setTrunkSettings } from '../src/operations/trunks/trunkSettings';
import { callApi, connectMossgate, credentialsOf, INES, type Mossgate } from './harness/mossgate';
import { connectTrunk, type Trunk, trunkCredentials } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let trunk: Trunk;
let send: Sender;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  trunk = await connectTrunk(house);
  send = createSender(house.ctx);
});
afterAll(() => house.stop());

const refusedFor = (code: string) => ({ findings: [{ finding: { code } }] });

test('a number carries what it is for, and whoever wrote to it is answered', async () => {
  const { ctx } = house;
  const order = { to: INES, from: mossgate.channel.id, text: 'The lock is shut' };
  await setPurpose(ctx, SYSTEM, mossgate.channel.number_id, 'one-time-codes');
  await expect(send(SYSTEM, order)).rejects.toMatchObject(refusedFor('purpose-forbids'));
  await house.bench.type(INES, mossgate.channel.address, 'Which code?');
  await until('it is in', () => ctx.store.messages.one({ text: 'Which code?' }));
  expect((await send(SYSTEM, order)).status).toBe(202);
  await setPurpose(ctx, SYSTEM, mossgate.channel.number_id, 'marketing');
  const { key } = await createApiKey(ctx, SYSTEM, { appId: mossgate.appId, name: 'Codes', scopes: ['codes:send'] });
  const code = await callApi(house, key, 'POST', '/codes', { to: INES, from: mossgate.channel.id });
  expect([code.status, JSON.stringify(code.body)]).toEqual([422, expect.stringContaining('purpose-forbids')]);
  await setPurpose(ctx, SYSTEM, mossgate.channel.number_id, null);
});

test('a name of letters sends one way, is said to, and is not tried where networks refuse it', async () => {
  const { ctx } = house;
  const added = await addTrunkNumbers(ctx, SYSTEM, trunk.accountId, {
    text: '60777\nO7700 90089\nlock office',
    names: 'Mossgate\n07700 900890\nFar too long for a name',
    country: '',
  });
  expect(added.lines.map(({ address, finding }) => address?.kind ?? finding?.code)).toEqual([
    'short-code',
    expect.stringMatching(/^address-/),
    'address-no-digits',
    'sender-name',
    'name-malformed',
    'name-malformed',
  ]);
  const name = await ctx.store.numbers.one({ account_id: trunk.accountId, address: 'Mossgate' });
  expect(name?.abilities).toEqual(['text-out']);
  const { id } = await openChannel(ctx, SYSTEM, { numberId: name?.id ?? '', name: 'By name' });
  const proofs = (await getChannel(ctx, SYSTEM, id)).proofs;
  expect(proofs.find(({ hop }) => hop === 'inbound')?.state).toBe('not-applicable');
  // Where names are registered, nothing leaves before this one is, and it is said where it stands.
  const abroad = { to: '+61491570006', from: id, text: 'The lock is shut' };
  const unregistered = (said: string) => ({
    findings: [{ finding: { code: 'sender-name-unregistered', problem: expect.stringContaining(said) } }],
  });
  const note = (state: string, country = 'AU') => noteNameRegistration(ctx, SYSTEM, id, { country, state, said: '' });
  await expect(send(SYSTEM, abroad)).rejects.toMatchObject(unregistered('was not handed in'));
  await note('submitted');
  await expect(send(SYSTEM, abroad)).rejects.toMatchObject(unregistered('not decided yet'));
  await note('rejected');
  await expect(send(SYSTEM, abroad)).rejects.toMatchObject(unregistered('rejected'));
  await note('approved');
  expect((await send(SYSTEM, abroad)).status).toBe(202);
  expect((await listNameRegistrations(ctx, SYSTEM, id))?.[0]).toMatchObject({ country: 'AU', state: 'approved' });
  await expect(note('approved', 'GB')).rejects.toMatchObject({ findings: [{ field: 'country' }] });
  expect(await listNameRegistrations(ctx, SYSTEM, mossgate.channel.id)).toBeUndefined();
  // Another provider may send under the same name.
  const { id: other } = await connectProvider(ctx, SYSTEM, {
    connector: 'ostrel',
    name: 'Second login',
    credentials: trunkCredentials(house, 1),
  });
  await addTrunkNumbers(ctx, SYSTEM, other, { text: '', names: 'Mossgate', country: '' });
  const same = await ctx.store.numbers.one({ account_id: other, address: 'Mossgate' });
  expect(await openChannel(ctx, SYSTEM, { numberId: same?.id ?? '', name: 'By the same name' })).toBeTruthy();
  const order = { from: id, text: 'Passage at 9' };
  await expect(send(SYSTEM, { ...order, to: '+12025550143' })).rejects.toMatchObject(refusedFor('sender-name-refused'));
  expect((await send(SYSTEM, { ...order, to: INES })).status).toBe(202);
});

test('a number that arrives through another account is not entered on a trunk', async () => {
  const [line] = await examineNumbers(house.ctx, SYSTEM, trunk.accountId, { text: '020 7946 0114', country: 'GB' });
  expect(line?.finding).toMatchObject({ code: 'number-elsewhere', problem: expect.stringContaining('Harbour desk') });
});

test('a claimed number is offered no more, and what its country demands is said before', async () => {
  const { ctx } = house;
  const wish = { accountId: mossgate.accountId, country: 'GB', areaCode: '20', digits: '144' };
  const before = await searchNumbers(ctx, SYSTEM, wish);
  expect(before.demands).toBeUndefined();
  const [best] = before.offers;
  await claimNumber(ctx, SYSTEM, {
    accountId: mossgate.accountId,
    offerId: best?.offerId ?? '',
    address: best?.address ?? '',
  });
  const after = await searchNumbers(ctx, SYSTEM, wish);
  expect(after.offers.map(({ address }) => address)).not.toContain(best?.address);
  expect(
    (await searchNumbers(ctx, SYSTEM, { ...wish, country: 'FR', areaCode: '', digits: '' })).demands,
  ).toMatchObject({
    said: expect.stringContaining('registered'),
    met: expect.any(Boolean),
  });
});

test('with other credentials their numbers are there at once', async () => {
  const { ctx } = house;
  const other = credentialsOf(house, 1);
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, other);
  const listed = await ctx.store.numbers.all({ account_id: mossgate.accountId, gone_at: null });
  const theirs = house.world.accounts[1]?.numbers.map(({ number }) => number) ?? [];
  expect(listed.map(({ address }) => address).sort()).toEqual([...theirs].sort());
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, credentialsOf(house));
});

test('the pace that is shown is the one in force', async () => {
  const { ctx } = house;
  const shown = async () => (await getChannel(ctx, SYSTEM, trunk.channel.id)).paceInForce;
  await setTrunkSettings(ctx, SYSTEM, trunk.accountId, { pace: 3 });
  expect(await shown()).toEqual({ pace: 3, heldBy: expect.stringContaining('trunk') });
  await ctx.store.write((unit) => unit.channels.change({ id: trunk.channel.id }, { pace: 2 }));
  expect(await shown()).toEqual({ pace: 2 });
});
