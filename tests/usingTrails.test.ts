/** What can be done with a trail: laid beside the last that worked, taken along as a file, gone again from a hop. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { setAccountDisabled } from '../src/operations/accounts/accounts';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { againFrom, besideTheLast, trailFile } from '../src/operations/log/trailActions';
import { createSender } from '../src/operations/outbound/sendMessage';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
const agent: Actor = { kind: 'user', id: 'usr_a', name: 'Agent', role: 'agent' };

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

async function order(text: string, to = TOMAS, extra: object = {}) {
  const { message } = await createSender(house.ctx)(SYSTEM, { to, from: mossgate.channel.id, text, ...extra });
  return message.id;
}

const become = (id: string, ...states: string[]) =>
  until(`the message is ${states}`, async () =>
    states.includes((await house.ctx.store.messages.one({ id }))?.state ?? ''),
  );

test('beside the last that worked: the hop that differs, and what was changed between the two', async () => {
  const { ctx, bench } = house;
  const good = await order('The lock is open');
  await become(good, 'delivered');
  expect(await besideTheLast(ctx, SYSTEM, good)).toBeUndefined();

  await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, true);
  await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false);
  await bench.faults({ brackwater: { creditGone: true } });
  const failed = await order('The lock is shut');
  await become(failed, 'failed');
  await bench.faults({ brackwater: { creditGone: false } });
  const beside = await besideTheLast(ctx, SYSTEM, failed);
  expect(beside?.other.id).toBe(good);
  expect(beside?.hops.filter(({ differs }) => differs).length).toBeGreaterThan(0);
  expect(beside?.changes.map(({ summary }) => summary).join('\n')).toMatch(/Main account/);
});

test('a message that did not arrive is ordered anew as it was; one that did is left alone', async () => {
  const { ctx, bench } = house;
  await bench.setHandset(TOMAS, { power: 'off' });
  const failed = await order('Paddle gear repaired', TOMAS, { tags: ['stoppage'] });
  await become(failed, 'failed');
  await bench.setHandset(TOMAS, { power: 'on' });
  const again = await againFrom(ctx, SYSTEM, failed, createSender(ctx));
  expect(again).toMatch(/^msg_/);
  await become(again ?? '', 'delivered');
  const [before, after] = await Promise.all([failed, again ?? ''].map((id) => ctx.store.messages.one({ id })));
  expect(after).toMatchObject({ text: 'Paddle gear repaired', recipient: TOMAS, tags: ['stoppage'] });
  expect(before?.state).toBe('failed');
  await expect(againFrom(ctx, SYSTEM, again ?? '', createSender(ctx))).rejects.toThrow(/did not arrive/);
  await expect(againFrom(ctx, agent, failed, createSender(ctx))).rejects.toThrow(/administrator/);
});

test('an event that the app refused is posted once more, with the same id', async () => {
  const { ctx, bench } = house;
  await bench.faults({ lockbook: { answers500: true } });
  await bench.type(INES, mossgate.channel.address, 'LOCK Heron 09:00');
  const delivery = await until('it was refused once', async () =>
    (await ctx.store.deliveries.all({ event_type: 'windgap.message.received' })).find(
      ({ last_status }) => last_status === 500,
    ),
  );
  await bench.faults({ lockbook: { answers500: false } });
  expect(await againFrom(ctx, SYSTEM, delivery.id, createSender(ctx))).toBeUndefined();
  await until('the app has it', async () => (await ctx.store.deliveries.one({ id: delivery.id }))?.delivered_at);
  const { events } = await bench.lockbook();
  const texts = events.filter(({ message }) => message?.text === 'LOCK Heron 09:00');
  expect(new Set(texts.map(({ id }) => id)).size).toBe(1);
});

test('the file of a trail has the requests and answers, and no secret of the installation', async () => {
  const { ctx } = house;
  await until('the booking is answered', async () => (await house.bench.received(INES)).length > 0);
  const [inbound] = await ctx.store.messages.all({ direction: 'in' });
  const [outbound] = await ctx.store.messages.all({ direction: 'out', state: 'delivered' });
  const files = JSON.stringify(
    await Promise.all([inbound, outbound].map((message) => trailFile(ctx, SYSTEM, message?.id ?? ''))),
  );
  expect(files).toContain('LOCK Heron 09:00');
  expect(files).toContain('x-brackwater-signature');
  // The address of a channel is a secret of its own; what a signature was may be shown, what made it may not.
  const address = mossgate.inboundUrl.split('/').at(-1) ?? '';
  const lockbook = (await house.bench.lockbook()).settings.secret;
  const secrets = [mossgate.secret, mossgate.apiKey, lockbook, address];
  expect(secrets.filter((secret) => secret.length < 8 || files.includes(secret))).toEqual([]);
});
