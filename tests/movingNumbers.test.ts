/** A number moves from one provider to another while people write and are written to: nothing lost, nothing doubled, each side proven. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connectProvider } from '../src/operations/accounts/accounts';
import { openChannel } from '../src/operations/channels/channels';
import {
  endMove,
  handOverOtherSide,
  prepareMove,
  rehearseMove,
  swapSides,
  timeCutOver,
} from '../src/operations/channels/moves/moveNumber';
import { readMove } from '../src/operations/channels/moves/moveViews';
import { SYSTEM } from '../src/operations/context/actor';
import { getTrail } from '../src/operations/log/trail';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { connectMossgate, credentialsOf, INES, type Mossgate, postSigned, TOMAS, textIn } from './harness/mossgate';
import { trunkCredentials, untilBound } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let trunkId: string;
let send: Sender;
const NUMBER = '+442079460114';

beforeAll(async () => {
  house = await startInstallation({ perSecond: 200 });
  mossgate = await connectMossgate(house, 'brackwater', 25);
  const trunk = await connectProvider(house.ctx, SYSTEM, {
    connector: 'ostrel',
    name: 'The trunk',
    credentials: trunkCredentials(house),
  });
  trunkId = trunk.id;
  await untilBound(house, trunkId);
  send = createSender(house.ctx);
});
afterAll(() => house.stop());

/** The network carries the number through the one or the other from now on. */
async function port(to: 'brackwater' | 'ostrel') {
  const { bench, world } = house;
  const account = `brackwater/accounts/${world.accounts[0]?.id}`;
  const theirs = await bench.read<{ numbers: { number: string }[] }>(`/${account}`);
  const login = await bench.read<{ numbers: string[] }>('/ostrel/logins/mossgate');
  const held = numbers.get('held') ?? theirs.numbers.find(({ number }) => number === NUMBER);
  if (held) numbers.set('held', held);
  const others = theirs.numbers.filter(({ number }) => number !== NUMBER);
  const rest = login.numbers.filter((number) => number !== NUMBER);
  // The new one has it before the old one has it no more: there is no moment at which nobody carries it.
  if (to === 'ostrel') await bench.change('ostrel/logins/mossgate', { numbers: [...rest, NUMBER] });
  await bench.change(account, { numbers: to === 'brackwater' && held ? [...others, held] : others });
  if (to === 'brackwater') await bench.change('ostrel/logins/mossgate', { numbers: rest });
}
const numbers = new Map<string, { number: string }>();

/** How often each text is on its handset. */
async function shown(): Promise<Map<string, number>> {
  const counts = new Map<string, number>();
  for (const handset of [INES, TOMAS])
    for (const { text } of await house.bench.received(handset)) counts.set(text, (counts.get(text) ?? 0) + 1);
  return counts;
}
const proofs = async () =>
  Object.fromEntries(
    (await house.ctx.store.proofs.all({ subject_id: mossgate.channel.id })).map(({ hop, state }) => [hop, state]),
  );
const move = async () =>
  (await house.ctx.store.numberMoves.all({ channel_id: mossgate.channel.id, ended_at: null }))[0];
const moveId = async () => (await move())?.id ?? '';

test('the number is one channel: it cannot be opened beside itself, and a move is refused where it cannot be made', async () => {
  const { ctx } = house;
  const second = await connectProvider(ctx, SYSTEM, {
    connector: 'brackwater',
    name: 'Second account',
    credentials: credentialsOf(house, 1),
  });
  await expect(prepareMove(ctx, SYSTEM, mossgate.channel.id, second.id)).rejects.toThrow('does not list');
  await expect(prepareMove(ctx, SYSTEM, mossgate.channel.id, mossgate.accountId)).rejects.toThrow('there already');
  const { id } = await prepareMove(ctx, SYSTEM, mossgate.channel.id, trunkId);
  await expect(prepareMove(ctx, SYSTEM, mossgate.channel.id, trunkId)).rejects.toThrow('being moved already');
  const there = await ctx.store.numbers.one({ account_id: trunkId, address: NUMBER });
  await expect(openChannel(ctx, SYSTEM, { numberId: there?.id ?? '', name: 'Twice' })).rejects.toThrow('Harbour desk');
  await expect(rehearseMove(ctx, SYSTEM, id, INES)).rejects.toThrow('bind');
  await expect(handOverOtherSide(ctx, SYSTEM, id)).rejects.toThrow('no way');
  // Called off, it leaves all as it was.
  await endMove(ctx, SYSTEM, id);
  expect(await readMove(ctx, SYSTEM, mossgate.channel.id)).toBeUndefined();
  expect((await ctx.store.channels.one({ id: mossgate.channel.id }))?.account_id).toBe(mossgate.accountId);
  expect(await ctx.store.numbers.one({ account_id: trunkId, address: NUMBER })).toBeUndefined();
});

test('during traffic both ways it is cut over at its time and back: nothing lost, nothing doubled, and each side proven', async () => {
  const { ctx, bench } = house;
  const id = mossgate.channel.id;
  await prepareMove(ctx, SYSTEM, id, trunkId);
  const written: string[] = [];
  const ordered: string[] = [];
  /** People write and are written to, some at a time. */
  async function traffic(name: string, count: number) {
    for (let n = 0; n < count; n++) {
      const [out, back] = [`${name} out ${n}`, `${name} in ${n}`];
      ordered.push(out);
      written.push(back);
      await send(SYSTEM, { to: n % 2 ? INES : TOMAS, from: id, text: out });
      await bench.type(n % 2 ? INES : TOMAS, NUMBER, back);
    }
  }
  await traffic('before', 20);
  await port('ostrel');
  // The network has moved it already, and the old provider still sends what waits or refuses it.
  await timeCutOver(ctx, SYSTEM, await moveId(), ctx.now() + 60_000);
  await bench.moveClock(61_000);
  await until('it is cut over', async () => (await move())?.state === 'moved');
  expect((await proofs()).outbound).toBe('unproven');
  await traffic('over the trunk', 30);
  await until('both ways are proven over the trunk', async () => {
    const { outbound, inbound, receipt } = await proofs();
    return outbound === 'proven' && inbound === 'proven' && receipt === 'proven';
  });
  // What the old provider still has comes in over its own address, as its own.
  const late = textIn('late-1', INES, NUMBER, 'Held back by the old provider');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, late, ctx.now())).toBeLessThan(300);
  written.push('Held back by the old provider');
  await port('brackwater');
  await swapSides(ctx, SYSTEM, await moveId());
  await traffic('back', 20);
  await until('both ways are proven over HTTP again', async () => {
    const { outbound, inbound } = await proofs();
    return outbound === 'proven' && inbound === 'proven';
  });
  await until('nothing waits', async () => (await ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0);
  await settle(house);
  const counts = await shown();
  const messages = await ctx.store.messages.all({ channel_id: id, direction: 'out' });
  for (const text of ordered) {
    const row = messages.find((each) => each.text === text);
    // Each once, or refused by the provider that had lost the number, which is said on it; none twice.
    expect([text, counts.get(text) ?? 0]).toEqual([
      text,
      row?.state === 'failed' || row?.state === 'uncertain' ? 0 : 1,
    ]);
  }
  expect(messages.filter(({ state }) => state === 'uncertain')).toEqual([]);
  const received = await ctx.store.messages.all({ channel_id: id, direction: 'in' });
  expect(received.map(({ text }) => text).sort()).toEqual([...written].sort());
  // Each trail says who carried it then.
  const carrier = async (text: string) => {
    const row = messages.find((each) => each.text === text);
    return (await getTrail(ctx, SYSTEM, row?.id ?? '')).legs[0]?.hops[2]?.place;
  };
  expect(await carrier('before out 3')).toBe('Main account');
  expect(await carrier('over the trunk out 3')).toBe('The trunk');
  expect(await carrier('back out 3')).toBe('Main account');
  await endMove(ctx, SYSTEM, await moveId());
}, 240_000);

test('what one provider may have is not sent through the other', async () => {
  const { ctx, bench } = house;
  const id = mossgate.channel.id;
  await prepareMove(ctx, SYSTEM, id, trunkId);
  await bench.faults({ brackwater: { down: true } });
  const { message } = await send(SYSTEM, { to: INES, from: id, text: 'Perhaps taken' });
  await until('it was tried', async () => (await ctx.store.outbox.one({ message_id: message.id }))?.failures);
  await port('ostrel');
  await swapSides(ctx, SYSTEM, await moveId());
  await bench.moveClock(600_000);
  const row = await until('it is left open', () => ctx.store.messages.one({ id: message.id, state: 'uncertain' }));
  expect(row.cause).toBe('outcome-unknown');
  await bench.faults({ brackwater: { down: false } });
  await settle(house);
  expect((await shown()).get('Perhaps taken') ?? 0).toBe(0);
  await endMove(ctx, SYSTEM, await moveId());
});

test('a rehearsal says what the new provider answers, and reaches phones of our own alone', async () => {
  const { ctx, bench } = house;
  const id = mossgate.channel.id;
  await port('brackwater');
  // Over the trunk since the test before; back to where it came from.
  await prepareMove(ctx, SYSTEM, id, mossgate.accountId);
  await expect(rehearseMove(ctx, SYSTEM, await moveId(), '+447700900555')).rejects.toThrow('verified phone');
  expect(await rehearseMove(ctx, SYSTEM, await moveId(), INES)).toContain('accepted it');
  await until('it is there', async () =>
    (await shown()).get('A test of Harbour desk before it moves to Main account.'),
  );
  await bench.faults({ brackwater: { creditGone: true } });
  expect(await rehearseMove(ctx, SYSTEM, await moveId(), INES)).toContain('refused it');
  await bench.faults({ brackwater: { creditGone: false } });
  await endMove(ctx, SYSTEM, await moveId());
});

test('at its time nothing is led to an account that would refuse it', async () => {
  const { ctx, bench } = house;
  const id = mossgate.channel.id;
  await port('brackwater');
  // Since the move before it sends over the trunk.
  await prepareMove(ctx, SYSTEM, id, mossgate.accountId);
  await ctx.store.write((unit) => unit.accounts.change({ id: mossgate.accountId }, { state: 'refused' }));
  await timeCutOver(ctx, SYSTEM, await moveId(), ctx.now() + 60_000);
  await bench.moveClock(61_000);
  const kept = await until('it says so', async () => {
    const row = await move();
    return row?.said ? row : undefined;
  });
  expect(kept).toMatchObject({ state: 'prepared', cut_over_at: null, said: expect.stringContaining('credentials') });
  await expect(timeCutOver(ctx, SYSTEM, kept.id, ctx.now() - 1)).rejects.toThrow('over already');
});
