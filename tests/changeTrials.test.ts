/** Changes of the set-up on trial: what is proven in time stays, all else is reverted, here and at the provider, and what cannot be is said. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { claimNumber, setPurpose } from '../src/operations/accounts/numbers';
import { createApp } from '../src/operations/apps/apps';
import { changeSubscription, subscribe } from '../src/operations/apps/webhooks/subscriptions';
import { keepTrial, listTrials, onTrial, revertTrial } from '../src/operations/changeTrials';
import { handOverForMe, setChannelPace } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { openCredentials } from '../src/operations/profiles';
import { saveProfile } from '../src/operations/profiles/connectorProfiles';
import { examineNow } from '../src/operations/readiness/readiness';
import { resealAll } from '../src/operations/sealing';
import type { ChangeTrialRow } from '../src/store/schema/rows';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { brackwaterProfile, type Installation, startInstallation } from './harness/processes';
import { publishRoutes } from './harness/routes';
import { until } from './harness/until';

const MINUTE = 60_000;
const FORMER = 'https://elsewhere.example/former';

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

/** Makes a change on trial for five minutes. */
async function trial(work: () => Promise<unknown>): Promise<ChangeTrialRow | undefined> {
  let begun: ChangeTrialRow | undefined;
  await onTrial(house.ctx, SYSTEM, 5, work, (row) => {
    begun = row;
  });
  return begun;
}

const ended = (id: string | undefined) =>
  until('the trial has ended', async () => {
    const row = await house.ctx.store.changeTrials.one({ id: id ?? '' });
    return row?.state === 'running' ? undefined : row;
  });

/** What the provider posts to, as it says itself. */
async function addressThere(): Promise<string | undefined> {
  const { ctx } = house;
  const account = await ctx.store.accounts.one({ id: mossgate.accountId });
  const outcome = await ctx.connectors.get('brackwater').listNumbers?.(openCredentials(ctx, account as never));
  const numbers = outcome?.ok ? outcome.value : [];
  return numbers.find(({ address }) => address === mossgate.channel.address)?.inbound.url;
}

async function setThere(url: string): Promise<void> {
  const { ctx } = house;
  const account = await ctx.store.accounts.one({ id: mossgate.accountId });
  const number = await ctx.store.numbers.one({ id: mossgate.channel.number_id });
  const outcome = await ctx.connectors
    .get('brackwater')
    .setInbound?.(
      openCredentials(ctx, account as never),
      { remoteId: number?.remote_id ?? '', address: mossgate.channel.address },
      { url, fallback: '', challengeWord: '' },
    );
  expect(outcome?.ok).toBe(true);
}

const handOver = () => trial(() => handOverForMe(house.ctx, SYSTEM, mossgate.channel.id));

test('an address set at the provider is set back there, when nobody texted in time', async () => {
  await setThere(FORMER);
  const begun = await handOver();
  expect(begun?.needs.map((need) => need.kind === 'hop' && need.hop).sort()).toEqual(['inbound', 'receipt']);
  expect(await addressThere()).toBe(mossgate.inboundUrl);
  await house.bench.moveClock(5 * MINUTE + 1000);
  expect(await ended(begun?.id)).toMatchObject({
    state: 'reverted',
    said: expect.stringMatching(/not proven in time/i),
  });
  expect(await addressThere()).toBe(FORMER);
  const { open } = await examineNow(house.ctx);
  expect(open.find(({ code }) => code === 'change-reverted')?.problem).toContain('Set the inbound URL of Harbour desk');
});

test('it stays once a text came in and a receipt came back', async () => {
  const begun = await handOver();
  await house.bench.type(INES, mossgate.channel.address, 'Is it open?');
  const view = await until('the way in is proven', async () => {
    const found = (await listTrials(house.ctx, SYSTEM)).find(({ id }) => id === begun?.id);
    return found?.needs.some(({ proven }) => proven) ? found : undefined;
  });
  expect(view).toMatchObject({ state: 'running' });
  await createSender(house.ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'It is.' });
  // Nothing of what was is kept longer than it may have to be reverted.
  expect(await ended(begun?.id)).toMatchObject({ state: 'kept', sealed_rows: [], outside: [] });
  await house.bench.moveClock(6 * MINUTE);
  expect(await addressThere()).toBe(mossgate.inboundUrl);
});

test('a provider that does not answer when it is to be set back is asked until it does', async () => {
  await setThere(FORMER);
  const begun = await handOver();
  await house.bench.faults({ brackwater: { down: true } });
  await house.bench.moveClock(5 * MINUTE + 1000);
  await until('it failed once', async () =>
    (await house.ctx.store.changeTrials.one({ id: begun?.id ?? '' }))?.said?.includes('still posts to'),
  );
  await house.bench.faults({ brackwater: { down: false } });
  await house.bench.moveClock(6000);
  expect(await ended(begun?.id)).toMatchObject({ state: 'reverted' });
  expect(await addressThere()).toBe(FORMER);
  await handOverForMe(house.ctx, SYSTEM, mossgate.channel.id);
});

test('what was changed here is reverted column by column; what somebody changed since stays, and is named', async () => {
  const { ctx } = house;
  const id = mossgate.subscriptionId;
  const before = await ctx.store.subscriptions.one({ id });
  const elsewhere = { url: 'http://127.0.0.1:9/elsewhere', events: before?.events ?? [], filter: {} };
  const first = await trial(() => changeSubscription(ctx, SYSTEM, id, elsewhere));
  const pace = await trial(() => setChannelPace(ctx, SYSTEM, mossgate.channel.id, 3));
  await setChannelPace(ctx, SYSTEM, mossgate.channel.id, 4);
  // Sealed anew meanwhile: what is sealed is compared open.
  await resealAll(ctx, SYSTEM);
  await house.bench.moveClock(5 * MINUTE + 1000);
  expect(await ended(first?.id)).toMatchObject({ state: 'reverted' });
  expect((await ctx.store.subscriptions.one({ id }))?.url).toBe(before?.url);
  expect(await ended(pace?.id)).toMatchObject({
    state: 'stuck',
    said: expect.stringContaining('changed again since (pace)'),
  });
  expect((await ctx.store.channels.one({ id: mossgate.channel.id }))?.pace).toBe(4);
  const { open } = await examineNow(ctx);
  expect(open.find(({ code }) => code === 'change-not-reverted')?.severity).toBe('error');
});

test('routes that were published on trial stay once something was routed by them, and are what they were if not', async () => {
  const { ctx } = house;
  const before = (await ctx.store.routeRevisions.all({}, { order: [['number', 'DESC']], limit: 1 }))[0];
  const begun = await trial(() => publishRoutes(ctx, []));
  expect(begun?.needs).toEqual([{ kind: 'routed', revision: (before?.number ?? 0) + 1 }]);
  await house.bench.moveClock(5 * MINUTE + 1000);
  expect(await ended(begun?.id)).toMatchObject({ state: 'reverted' });
  const [now] = await ctx.store.routeRevisions.all({}, { order: [['number', 'DESC']], limit: 1 });
  expect(now).toMatchObject({ number: (before?.number ?? 0) + 2, content: before?.content });
});

test('a profile is reverted as it was written; a person may keep a change, or revert it, before its time', async () => {
  const { ctx } = house;
  const text = brackwaterProfile('brackwater-own', (written) => written);
  await saveProfile(ctx, SYSTEM, text);
  const change = () => trial(() => saveProfile(ctx, SYSTEM, text.replace('pace: 25', 'pace: 9'), 'brackwater-own'));
  // No channel goes by it: there is nothing to prove and nothing on trial.
  expect(await change()).toBeUndefined();
  const begun = await trial(() => setChannelPace(ctx, SYSTEM, mossgate.channel.id, 6));
  await revertTrial(ctx, SYSTEM, begun?.id ?? '');
  expect((await ctx.store.channels.one({ id: mossgate.channel.id }))?.pace).toBe(4);
  // A pace touches no proof: what was proven before is so still.
  const proof = await ctx.store.proofs.one({ subject_id: mossgate.channel.id, hop: 'outbound' });
  expect(proof?.note ?? '').not.toContain('reverted');
  const other = await trial(() => setChannelPace(ctx, SYSTEM, mossgate.channel.id, 7));
  await keepTrial(ctx, SYSTEM, other?.id ?? '');
  await expect(revertTrial(ctx, SYSTEM, other?.id ?? '')).rejects.toThrow();
  expect((await ctx.store.channels.one({ id: mossgate.channel.id }))?.pace).toBe(7);
});

test('a trial that cannot be read, or whose revert fails, holds up no other', async () => {
  const { ctx } = house;
  const pace = (value: number) => trial(() => setChannelPace(ctx, SYSTEM, mossgate.channel.id, value));
  const before = (await ctx.store.channels.one({ id: mossgate.channel.id }))?.pace;
  const [damaged, failing] = [await pace(8), await pace(9)];
  await ctx.store.write(async (unit) => {
    await unit.execute(`UPDATE change_trials SET needs = '[{"half' WHERE id = :id`, { id: damaged?.id ?? '' });
    // It names a table there is none of.
    const rows = [{ table: 'nowhere', key: { id: 'x' }, before: { a: 1 }, after: { a: 2 } }];
    await unit.changeTrials.change({ id: failing?.id ?? '' }, { sealed_rows: rows });
    await unit.channels.change({ id: mossgate.channel.id }, { pace: before ?? 1 });
  });
  const other = await pace(2);
  await house.bench.moveClock(5 * MINUTE + 1000);
  expect(await ended(other?.id)).toMatchObject({ state: 'reverted' });
  expect((await ctx.store.channels.one({ id: mossgate.channel.id }))?.pace).toBe(before);
  await house.bench.moveClock(16 * MINUTE);
  expect(await ended(failing?.id)).toMatchObject({ state: 'stuck', said: expect.stringContaining('could not be') });
  await ctx.store.write((unit) => unit.changeTrials.remove({ id: damaged?.id ?? '' }));
});

test('what a number is for is on trial with the channel of it', async () => {
  const { ctx } = house;
  const id = mossgate.channel.number_id;
  const before = (await ctx.store.numbers.one({ id }))?.purpose ?? null;
  const begun = await trial(() => setPurpose(ctx, SYSTEM, id, 'service'));
  expect(begun?.needs).toEqual([{ kind: 'hop', hop: 'outbound', anyOf: [mossgate.channel.id] }]);
  await revertTrial(ctx, SYSTEM, begun?.id ?? '');
  expect((await ctx.store.numbers.one({ id }))?.purpose ?? null).toBe(before);
});

test('what cannot be reverted is not made on trial, and what was added is switched off', async () => {
  const { ctx } = house;
  await expect(
    trial(() => claimNumber(ctx, SYSTEM, { accountId: mossgate.accountId, offerId: 'any' } as never)),
  ).rejects.toThrow(/at once instead of on trial/);
  const app = await createApp(ctx, SYSTEM, { name: 'Second', description: '' });
  let added = '';
  const begun = await trial(async () => {
    added = (await subscribe(ctx, SYSTEM, { appId: app.id, url: 'http://127.0.0.1:9/second' })).id;
  });
  await revertTrial(ctx, SYSTEM, begun?.id ?? '');
  expect((await ctx.store.subscriptions.one({ id: added }))?.disabled_at).toBeGreaterThan(0);
});
