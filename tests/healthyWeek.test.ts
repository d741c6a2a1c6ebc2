/**
 * A healthy house over a week: everyday traffic over every kind of path with its everyday
 * noise, examined every hour. Whatever readiness says above a notice would be a false alarm.
 */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { checkAccount } from '../src/operations/accounts/accounts';
import { replaceApiKey } from '../src/operations/apps/apiKeys';
import { changeHook, createHook } from '../src/operations/apps/hooks/hooks';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { diagnoseComplaint } from '../src/operations/diagnosis/diagnose';
import { createSender } from '../src/operations/outbound/sendMessage';
import { examineNow } from '../src/operations/readiness/readiness';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { connectTrunk, type Trunk, untilBound } from './harness/ostrel';
import { end, type Installation, startInstallation } from './harness/processes';
import { connectTowpath } from './harness/records';
import { connectTarrow } from './harness/tarrow';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let trunk: Trunk;
let chat: Awaited<ReturnType<typeof connectTarrow>>;
let hookUrl = '';
const HOUR = 3_600_000;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  chat = await connectTarrow(house);
  trunk = await connectTrunk(house);
  await untilBound(house, trunk.accountId);
  await connectTowpath(house);
  const hook = await createHook(house.ctx, SYSTEM, { appId: mossgate.appId, name: 'Confirmed' });
  hookUrl = hook.url;
  await changeHook(house.ctx, SYSTEM, hook.id, {
    name: 'Confirmed',
    text: 'Passage at {{ lock }} is confirmed.',
    phoneField: 'mobile',
    country: 'GB',
    sender: { by: 'channel', channel: mossgate.channel.id },
  });
});
afterAll(() => house.stop());

let words = 0;
/** What a day brings: messages both ways on every channel, a record, and one thing that is nobody's fault. */
async function aDay(day: number): Promise<void> {
  const { ctx, bench } = house;
  const send = createSender(ctx);
  const noise = [
    () => bench.setHandset(TOMAS, { power: 'off' }),
    () => bench.faults({ brackwater: { postsTwice: true } }),
    () => bench.faults({ brackwater: { reportsReversed: true } }),
    () => bench.faults({ brackwater: { strayReports: true } }),
    () => bench.faults({ brackwater: { reportsBeforeAnswer: true } }),
    () => bench.faults({ tarrow: { postsTwice: true } }),
    () => bench.type(TOMAS, mossgate.channel.address, 'STOP').then(() => undefined),
  ][day % 7];
  await noise?.();
  for (let time = 0; time < 3; time++) {
    await bench.type(INES, mossgate.channel.address, `LOCK Tern ${++words}`);
    await bench.type(INES, chat.channel.address, `Is the quay free ${++words}`, 'chat');
    await bench.type(INES, trunk.channel.address, `Which lock is shut ${++words}`);
  }
  await until(
    'the chat has it',
    async () => (await ctx.store.messages.count({ channel_id: chat.channel.id, direction: 'in' })) >= 3 * (day + 1),
  );
  for (const channel of [mossgate.channel.id, chat.channel.id, trunk.channel.id])
    await send(SYSTEM, { to: INES, from: channel, text: `Stoppage ${++words}` });
  await send(SYSTEM, { to: TOMAS, from: mossgate.channel.id, text: `Stoppage ${++words}` }).catch(() => undefined);
  await fetch(hookUrl, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ lock: 'Tern', mobile: '07700 900123' }),
  });
  await until('everything has left', async () => (await ctx.store.outbox.count()) === 0);
  await until('every app is told', async () => (await ctx.store.deliveries.count({ state: ['due', 'leased'] })) === 0);
  await until('every run has ended', async () => (await ctx.store.runs.count({ state: 'due' })) === 0);
  await bench.setHandset(TOMAS, { power: 'on' });
  await bench.faults({
    brackwater: { postsTwice: false, reportsReversed: false, strayReports: false, reportsBeforeAnswer: false },
    tarrow: { postsTwice: false },
  });
}

/** The house as it is seen so many hours later, with an engine that was heard of just then. */
async function hoursLater(hours: number): Promise<AppContext> {
  const at = Date.now() + hours * HOUR;
  await house.ctx.store.write((unit) => unit.settings.put({ name: 'engine-seen', value: at }));
  return { ...house.ctx, now: () => at };
}

test('a week of everyday traffic: nothing above a notice, hour by hour', async () => {
  const { ctx } = house;
  await aDay(0);
  // A key is replaced in the middle of it, as keys are.
  const [key] = await ctx.store.apiKeys.all({ app_id: mossgate.appId });
  const alarms: string[] = [];
  let looks = 0;
  for (let day = 1; day <= 7; day++) {
    if (day === 4 && key) {
      const { key: fresh } = await replaceApiKey(ctx, SYSTEM, key.id, { hours: 24 });
      await house.bench.lockbook({ apiKey: fresh });
    }
    await aDay(day);
    for (const { id } of await ctx.store.accounts.all()) await checkAccount(ctx, SYSTEM, id);
    // The engine of today would say that it was heard of today.
    await end(house.engine);
    for (let hour = 0; hour < 24; hour++) {
      looks += 1;
      const { open } = await examineNow(await hoursLater((day - 1) * 24 + hour));
      alarms.push(
        ...open
          .filter(({ severity }) => severity !== 'notice')
          .map(({ code, subject, problem }) => `day ${day}, ${hour}:00: ${code} on ${subject.name}: ${problem}`),
      );
    }
    await house.startEngine();
    await untilBound(house, trunk.accountId);
  }
  console.log(
    `${looks} examinations over a week with ${await ctx.store.messages.count()} messages: ${alarms.length} findings above notice`,
  );
  expect(alarms).toEqual([]);
});

test('and whoever complains all the same is told of no cause that is not there', async () => {
  for (const symptom of ['nothing-arrives', 'worked-before', 'app-silent'] as const) {
    const view = await diagnoseComplaint(house.ctx, SYSTEM, {
      symptom,
      scope: { channel: mossgate.channel.id },
      answers: { 'bench-out': 'yes', 'bench-in': 'yes' },
    });
    expect(view.cause?.reasons.filter(({ factor }) => factor > 20) ?? []).toEqual([]);
  }
});
