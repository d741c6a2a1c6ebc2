/** Broadcasts over business chat: an allowance of conversations a day, a template halted in mid-run, and those it missed. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import { startBroadcast } from '../src/operations/broadcasts/course';
import { planSingle, sendSingle } from '../src/operations/broadcasts/single';
import { getBroadcastPage } from '../src/operations/broadcasts/views';
import { askForPlan, createBroadcast, saveBroadcast } from '../src/operations/broadcasts/writing/drafts';
import { giveList } from '../src/operations/broadcasts/writing/lists';
import { resendToFailed } from '../src/operations/broadcasts/writing/resending';
import type { Actor } from '../src/operations/context/actor';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { submitTemplate } from '../src/operations/templates/templateSubmissions';
import { createTemplate, getTemplate, saveTemplate } from '../src/operations/templates/templates';
import type { BroadcastRow, ChannelRow } from '../src/store/schema/rows';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { connectTarrow } from './harness/tarrow';
import { until } from './harness/until';

/** Conversations the platform lets the line begin in a day; of these a broadcast leaves one in twenty to others. */
const A_DAY = 20;
const DAY = 86_400_000;
const owner: Actor = { kind: 'user', id: 'usr_ada', name: 'Ada', role: 'owner' };
const numberOf = (index: number) => `+4474000${String(index).padStart(5, '0')}`;

let house: Installation;
let chat: ChannelRow;
let mossgate: Mossgate;
let accountId: string;

beforeAll(async () => {
  house = await startInstallation({
    perSecond: 200,
    outside: ({ tarrow }) => {
      const [line] = tarrow[0]?.lines ?? [];
      if (line) line.startsADay = A_DAY;
    },
  });
  const tarrow = await connectTarrow(house);
  [chat, accountId] = [tarrow.channel, tarrow.accountId];
  mossgate = await connectMossgate(house, 'brackwater', 60);
  await house.bench.change(`tarrow/businesses/${tarrow.businessId}`, { stage: 'live', billing: 'set' });
  await house.bench.change('tarrow/reviewer', { reviewMs: 150, perHour: 500 });
  await house.bench.addPopulation({ from: numberOf(0), count: 100 });
  await house.bench.addPopulation({ from: numberOf(200), count: 100, answers: [{ share: 0.6, words: 'BLOCK' }] });
});
afterAll(() => house.stop());

async function approved(name: string): Promise<string> {
  const { ctx } = house;
  const { id } = await createTemplate(ctx, SYSTEM, { kind: 'platform', accountId, name, language: 'en' });
  const { row: seen } = await getTemplate(ctx, SYSTEM, id);
  const body = 'The towpath at Heron Bridge is closed until Friday, please walk along the other bank until then.';
  const variants = [{ language: 'en', body, buttons: [], samples: {} }];
  await saveTemplate(ctx, SYSTEM, id, { name, category: 'transactional', variants }, seen.changedAt);
  await submitTemplate(ctx, SYSTEM, id);
  await until('it is approved', async () => (await getTemplate(ctx, SYSTEM, id)).standing.state === 'approved');
  return id;
}

async function planned(
  people: readonly string[],
  channel: ChannelRow,
  message: Partial<(typeof EMPTY_DEFINITION)['message']>,
): Promise<BroadcastRow> {
  const { ctx } = house;
  const { id } = await createBroadcast(ctx, owner, 'Towpath closed');
  await giveList(ctx, owner, id, { table: ['phone', ...people].join('\n'), version: 1 });
  const definition = {
    ...EMPTY_DEFINITION,
    message: { ...EMPTY_DEFINITION.message, ...message },
    audience: { include: [{ by: 'list' as const }], exclude: [] },
    channels: [channel.id],
    quietHours: false,
    rules: { ...EMPTY_DEFINITION.rules, first: 0, failed: 1 },
  };
  await saveBroadcast(ctx, owner, id, { definition, version: 2 });
  await askForPlan(ctx, owner, id, 3);
  return until('it is planned', async () => {
    const found = await row(id);
    return found.state === 'draft' ? found : undefined;
  });
}

const row = async (id: string) => (await house.ctx.store.broadcasts.one({ id })) as BroadcastRow;
const pageOf = (id: string) => getBroadcastPage(house.ctx, owner, id);
const run = ({ id, version }: BroadcastRow) =>
  startBroadcast(house.ctx, owner, id, { version, reason: 'Nothing has gone there yet' });

test('an allowance is kept to: what does not fit today goes tomorrow, and nobody is refused for it', async () => {
  const template = { id: await approved('towpath-closed'), mapping: {} };
  const people = Array.from({ length: 30 }, (_, index) => numberOf(index));
  const draft = await planned(people, chat, { template });
  const { plan } = draft;
  expect(plan).toMatchObject({ going: 30, bound: 'allowance' });
  expect(Math.floor(((plan?.last ?? 0) - (plan?.at ?? 0)) / DAY)).toBe(1);
  await run(draft);
  await until('those of today are there', async () => (await pageOf(draft.id)).progress.delivered === A_DAY - 1);
  const page = await until('it says what it waits for', async () => {
    const seen = await pageOf(draft.id);
    return seen.waiting ? seen : undefined;
  });
  expect(page.waiting).toMatchObject({ for: 'allowance', most: A_DAY - 1 });
  expect(page.progress).toMatchObject({ planned: 30 - (A_DAY - 1), failed: 0 });
  await house.bench.moveClock((page.waiting?.until ?? 0) - house.ctx.now() + 60_000);
  await until('it is finished', async () => (await row(draft.id)).state === 'finished');
  await until('all of it is there', async () => (await pageOf(draft.id)).progress.delivered === 30);
  const { course } = await pageOf(draft.id);
  const sum = (what: 'left' | 'arrived') => course.bars.reduce((all, bar) => all + bar[what], 0);
  expect([sum('left'), sum('arrived'), course.bars.length > 1]).toEqual([30, 30, true]);
});

test('a template that people block is halted by the platform, and the broadcast holds itself for that', async () => {
  await house.bench.moveClock(DAY);
  const template = { id: await approved('towpath-again'), mapping: {} };
  const people = Array.from({ length: 100 }, (_, index) => numberOf(200 + index));
  const draft = await planned(people, chat, { template });
  await run(draft);
  const held = await until('it holds itself', async () => (await row(draft.id)).held ?? undefined);
  expect(held).toMatchObject({ code: 'template', problem: expect.stringContaining('towpath-again') });
});

test('again to those whom it missed for a cause that passes, and it is told that they got nearly the same', async () => {
  const { ctx, bench } = house;
  for (const index of [1, 2]) {
    await bench.addHandset(numberOf(index));
    await bench.setHandset(numberOf(index), { power: 'off' });
  }
  const draft = await planned([0, 1, 2, 3].map(numberOf), mossgate.channel, { text: 'The lock is closed.' });
  await run(draft);
  await until('all is known', async () => {
    const { delivered, failed } = (await pageOf(draft.id)).progress;
    return delivered === 2 && failed === 2;
  });
  await until('it is finished', async () => (await row(draft.id)).state === 'finished');
  const { passing, spent, plan } = await pageOf(draft.id);
  expect([passing, spent.map(({ currency, n }) => [currency, n])]).toEqual([2, [[expect.any(String), 4]]]);
  expect(spent[0]?.micros).toBe(plan?.cost.micros[spent[0]?.currency ?? '']);
  for (const index of [1, 2]) await bench.setHandset(numberOf(index), { power: 'on' });
  const { id } = await resendToFailed(ctx, owner, draft.id);
  await askForPlan(ctx, owner, id, 1);
  const again = await until('it is planned', async () => ((await row(id)).state === 'draft' ? row(id) : undefined));
  expect(again.plan).toMatchObject({ people: 2, going: 2, alike: [] });
  await run(again);
  await until('they have it', async () => (await pageOf(id)).progress.delivered === 2);
  await expect(resendToFailed(ctx, owner, id)).rejects.toThrow(/not over yet|Nobody failed/);
  const third = await planned([0, 3, 4].map(numberOf), mossgate.channel, { text: 'The lock is closed!' });
  expect(third.plan?.alike).toEqual([expect.objectContaining({ id: draft.id, people: 2 })]);
});

test('a country that takes fewer at a time slows its own people down, and nobody is lost', async () => {
  const account = house.world.accounts[0]?.id ?? '';
  await house.bench.account(account, { perCountry: { GB: 3 } });
  const draft = await planned([10, 11, 12, 13, 14, 15, 16].map(numberOf), mossgate.channel, { text: 'Frost tonight.' });
  await run(draft);
  await until('all have it', async () => (await pageOf(draft.id)).progress.delivered === 7);
  const later = await house.ctx.store.events.all({ kind: 'deferred', cause: 'throttled' });
  expect(later.length).toBeGreaterThan(0);
  await house.bench.account(account, { perCountry: {} });
});

test('to one person: each channel says how it would go or why not, and it goes over the one that is chosen', async () => {
  const { ctx, bench } = house;
  const order = { to: '07700 900123', text: 'Shall we hold the mooring, Ines?' };
  const { ways } = await planSingle(ctx, owner, order);
  expect(ways.map(({ channelId, judged, reason }) => [channelId, judged.goes, reason?.title])).toEqual([
    [mossgate.channel.id, true, undefined],
    [chat.id, false, 'the reply window is closed'],
  ]);
  const send = createSender(ctx);
  await expect(sendSingle(ctx, owner, send, { ...order, channel: chat.id })).rejects.toThrow(
    'the reply window is closed',
  );
  await expect(sendSingle(ctx, owner, send, { ...order, to: '12', channel: mossgate.channel.id })).rejects.toThrow(
    'the number is not valid',
  );
  await sendSingle(ctx, owner, send, { ...order, channel: mossgate.channel.id });
  await until('she has it', async () => (await bench.received(INES)).some(({ text }) => text === order.text));
  await expect(planSingle(ctx, { ...owner, role: 'viewer' } as Actor, order)).rejects.toThrow();
});
