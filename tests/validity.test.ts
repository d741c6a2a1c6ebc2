/** The last useful moment of a message: nothing leaves after it, and providers that take one are told. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { beginRuns, type RunInput } from '../src/operations/runs/runs';
import type { ChannelRow, MessageRow } from '../src/store/schema/rows';
import { callApi, connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { connectTrunk } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let trunk: ChannelRow;
let send: Sender;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  ({ channel: trunk } = await connectTrunk(house));
  send = createSender(house.ctx);
});
afterAll(() => house.stop());

const untilState = (id: string, state: MessageRow['state']) =>
  until(`it is ${state}`, () => house.ctx.store.messages.one({ id, state }));
const inMinutes = (minutes: number) => house.ctx.now() + minutes * 60_000;
/** What was handed to the provider for a message. */
async function handedOver(id: string) {
  const [sent] = await house.ctx.store.exchanges.all({ purpose: 'send', subject_id: id });
  return sent?.request;
}

test('what waited longer than it is of use is not sent at all, and says so', async () => {
  await house.bench.faults({ brackwater: { down: true } });
  const late = await send(SYSTEM, {
    to: INES,
    from: mossgate.channel.id,
    text: 'Your lock is free',
    validUntil: inMinutes(10),
  });
  const patient = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Whenever you like' });
  // Claimed is not tried: an attempt under way would still find the provider up again.
  for (const { message } of [late, patient])
    await until('it was tried in vain', () => house.ctx.store.events.one({ message_id: message.id, kind: 'deferred' }));
  await house.bench.moveClock(11 * 60_000);
  await house.bench.faults({ brackwater: { down: false } });
  expect(await untilState(late.message.id, 'failed')).toMatchObject({ cause: 'no-longer-useful' });
  await untilState(patient.message.id, 'delivered');
  const shown = (await house.bench.received(INES)).map(({ text }) => text);
  expect(shown).toContain('Whenever you like');
  expect(shown).not.toContain('Your lock is free');
});

test('a provider that takes a period is told it, over HTTP and over a trunk', async () => {
  const { bench } = house;
  await bench.setHandset(INES, { power: 'off' });
  const text = await send(SYSTEM, {
    to: INES,
    from: mossgate.channel.id,
    text: 'For an hour',
    validUntil: inMinutes(60),
  });
  expect(await untilState(text.message.id, 'failed')).toMatchObject({ cause: 'message-expired' });
  await bench.setHandset(INES, { power: 'on' });
  const seconds = JSON.parse((await handedOver(text.message.id))?.body ?? '{}').valid_seconds as number;
  expect(seconds).toBeGreaterThan(3500);
  expect(seconds).toBeLessThanOrEqual(3600);
  const over = await send(SYSTEM, { to: INES, from: trunk.id, text: 'Over the trunk', validUntil: inMinutes(90) });
  await untilState(over.message.id, 'delivered');
  expect((await handedOver(over.message.id))?.headers.validity_period).toMatch(/^00000001(29|30)\d\d000R$/);
  const always = await send(SYSTEM, { to: INES, from: trunk.id, text: 'Without an end' });
  await untilState(always.message.id, 'delivered');
  expect((await handedOver(always.message.id))?.headers.validity_period).toBeUndefined();
});

test('a moment that is over or too far is refused at its field', async () => {
  const ask = (validUntil: string) =>
    callApi(house, mossgate.apiKey, 'POST', '/messages', {
      to: INES,
      from: mossgate.channel.id,
      text: 'x',
      validUntil,
    });
  expect((await ask(new Date(inMinutes(-1)).toISOString())).status).toBe(422);
  expect((await ask(new Date(inMinutes(60 * 24 * 8)).toISOString())).status).toBe(422);
  expect((await ask('tomorrow')).status).toBe(422);
  expect((await ask(new Date(inMinutes(30)).toISOString())).status).toBe(202);
});

test('an automation sends nothing after the moment that makes it pointless, and tells providers of it before', async () => {
  const { ctx } = house;
  const at = ctx.now();
  const run = (words: string, usefulUntil: number): RunInput => ({
    appId: mossgate.appId,
    source: 'feed',
    sourceId: 'fed_none',
    subjectId: words,
    steps: [
      { kind: 'wait', until: at + 60_000 },
      {
        kind: 'send',
        to: INES,
        text: words,
        sender: { by: 'channel', channel: mossgate.channel.id },
        tags: [],
        usefulUntil,
      },
    ],
  });
  await ctx.store.write((unit) => beginRuns(unit, [run('Too late', at + 59_000), run('In time', at + 3_600_000)], at));
  await house.bench.moveClock(61_000);
  const runs = () => ctx.store.runs.all({ source_id: 'fed_none' });
  await until('all have ended', async () => (await runs()).every(({ state }) => state === 'done'));
  const late = (await runs()).find(({ subject_id }) => subject_id === 'Too late');
  expect(JSON.stringify(late)).toContain('of no use had passed');
  expect(await ctx.store.messages.one({ text: 'Too late' })).toBeUndefined();
  expect(await ctx.store.messages.one({ text: 'In time' })).toMatchObject({ valid_until: at + 3_600_000 });
  // Done again after the moment, as when the engine died before it could note what it had done: it was sent, and that is said.
  const sent = (await runs()).find(({ subject_id }) => subject_id === 'In time');
  await house.bench.moveClock(2 * 3_600_000);
  await ctx.store.write((unit) =>
    unit.runs.change({ id: sent?.id ?? '' }, { state: 'due', next: 1, due_at: at, results: [], ended_at: null }),
  );
  const again = await until('it is done again', () => ctx.store.runs.one({ id: sent?.id ?? '', state: 'done' }));
  expect(JSON.stringify(again.results)).toContain('Message to');
  expect(await ctx.store.messages.count({ text: 'In time' })).toBe(1);
});
