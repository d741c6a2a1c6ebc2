/** Second ways under every fault of the first provider: nobody gets a message twice unless the rule allows it, and the trail tells both. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { getTrail } from '../src/operations/log/trail';
import { removeFallback, saveFallback } from '../src/operations/outbound/secondWay/rules';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import type { ChannelRow } from '../src/store/schema/rows';
import { callApi, connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { SLOWNESS, until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let second: ChannelRow;
let send: Sender;

/** The suite makes about 500 sends in all; `FALLBACK_SENDS=500` makes so many under each of all switches. */
const ALL = process.env.FALLBACK_SENDS !== undefined;
const SENDS = Number(process.env.FALLBACK_SENDS ?? 84);
/** Longer than it takes to decide about them, real milliseconds: the network keeps no other time. */
const LATE = 12_000 * SLOWNESS;
/** Those that leave most to be decided. */
const SWITCHES: readonly (readonly [name: string, on: boolean | number])[] = [
  ['down', true],
  ['answers500', true],
  ['throttlesAll', true],
  ['creditGone', true],
  ['losesTexts', true],
  ['delaysTexts', LATE],
];
const OTHERS: typeof SWITCHES = [
  ['hangs', true],
  ['sendsNoReports', true],
  ['carriesTwice', true],
  ['slowAnswers', 400],
  ['ignoresReferences', true],
  ['postsTwice', true],
  ['reportsBeforeAnswer', true],
  ['reportsReversed', true],
  ['strayReports', true],
  ['signsWithAnotherSecret', true],
];

beforeAll(async () => {
  house = await startInstallation({ perSecond: 500 });
  mossgate = await connectMossgate(house, 'brackwater', 200);
  const trunk = await connectTrunk(house);
  second = trunk.channel;
  await untilBound(house, trunk.accountId);
  send = createSender(house.ctx);
}, 120_000);
afterAll(() => house.stop());

async function rule(twice: boolean, minutes?: number): Promise<() => Promise<void>> {
  await saveFallback(house.ctx, SYSTEM, mossgate.channel.id, {
    to: second.id,
    countries: [],
    what: 'all',
    minutes,
    twice,
  });
  const [kept] = await house.ctx.store.fallbackRules.all({ channel_id: mossgate.channel.id });
  return () => removeFallback(house.ctx, SYSTEM, kept?.id ?? '');
}

/** How often each text is on its handset, by the number it came from. */
async function copies(): Promise<Map<string, { first: number; second: number }>> {
  const shown = new Map<string, { first: number; second: number }>();
  for (const handset of [INES, TOMAS])
    for (const { text, peer } of await house.bench.received(handset)) {
      const one = shown.get(text) ?? { first: 0, second: 0 };
      shown.set(text, {
        first: one.first + (peer === second.address ? 0 : 1),
        second: one.second + (peer === second.address ? 1 : 0),
      });
    }
  return shown;
}

const decided = async (ids: readonly string[]) => {
  const rows = await house.ctx.store.fallbacks.allBy('message_id', ids);
  return rows.filter(({ due_at }) => due_at !== null).length === 0;
};

let ordered = 0;
/** Orders so many texts, waits until what can be decided is, mends the fault, and waits for rest. */
async function sendUnder(name: string, on: boolean | number): Promise<{ ids: string[]; texts: string[] }> {
  await house.bench.faults({ brackwater: { [name]: on } });
  const texts = Array.from({ length: SENDS }, () => `${name} ${++ordered}`);
  const answers = await Promise.all(
    texts.map((text, index) => send(SYSTEM, { to: index % 2 ? INES : TOMAS, from: mossgate.channel.id, text })),
  );
  const ids = answers.map(({ message }) => message.id);
  await until('each was tried', async () => {
    // Whoever hangs is given up by the clock alone.
    if (name === 'hangs') await house.bench.moveClock(5000);
    const rows = await house.ctx.store.outbox.allBy('message_id', ids);
    return rows.every(({ attempts }) => attempts > 0);
  });
  await until(`what ${name} left is decided`, async () => {
    await house.bench.moveClock(20_000);
    return decided(ids);
  });
  await house.bench.faults({ brackwater: { [name]: typeof on === 'number' ? 0 : false } });
  await until('nothing waits to be handed over', async () => {
    await house.bench.moveClock(30_000);
    return (await house.ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0;
  });
  // What the network holds back comes now, or not at all.
  await settle(house);
  await house.bench.moveClock(120_000);
  await settle(house);
  return { ids, texts };
}

test('under each fault switch nobody gets two over two ways, and the trail tells what became of the second', async () => {
  const end = await rule(false, 1);
  const tally: Record<string, string> = {};
  for (const [name, on] of ALL ? [...SWITCHES, ...OTHERS] : SWITCHES) {
    const { ids, texts } = await sendUnder(name, on);
    const shown = await copies();
    const both = texts.filter((text) => (shown.get(text)?.first ?? 0) > 0 && (shown.get(text)?.second ?? 0) > 0);
    expect(both, name).toEqual([]);
    expect(
      texts.filter((text) => (shown.get(text)?.second ?? 0) > 1),
      name,
    ).toEqual([]);
    const rows = await house.ctx.store.fallbacks.allBy('message_id', ids);
    const gone = rows.filter(({ state }) => state === 'gone');
    const arrived = texts.filter((text) => shown.has(text));
    // Whoever has it over neither way: the trail says that this is not known, or why.
    const silent = rows.filter(({ state, said }) => state !== 'gone' && said === null);
    expect(silent, name).toEqual([]);
    expect(arrived.length + rows.filter(({ state }) => state !== 'gone').length, name).toBeGreaterThanOrEqual(SENDS);
    tally[name] =
      `${arrived.length} arrived, ${gone.length} over the second way, ${rows.length - gone.length} not known or left`;
    const [one] = gone;
    if (!one) continue;
    const trail = await getTrail(house.ctx, SYSTEM, one.next_id ?? '');
    expect(trail.legs.map(({ message }) => message.channelId)).toEqual([mossgate.channel.id, second.id]);
    expect(trail.legs[0]?.hops.find(({ place }) => place === 'Second way')).toMatchObject({
      what: `Went over ${second.name}`,
      state: 'proven',
    });
  }
  if (ALL) process.stdout.write(`${JSON.stringify(tally, null, 2)}\n`);
  // Those that certainly did not get there over the first arrived over the second.
  for (const name of ['answers500', 'throttlesAll', 'creditGone'])
    expect(tally[name]).toMatch(new RegExp(`^${SENDS} arrived, ${SENDS} over`));
  // A connection that is cut may have carried the order: it is asked again, and nothing goes another way.
  expect(tally.down).toMatch(new RegExp(`^${SENDS} arrived, 0 over`));
  expect(tally.losesTexts).toMatch(/^0 arrived, 0 over/);
  await end();
}, 600_000);

test('where twice is better than never, what is not known goes the second way, and what was late is called late', async () => {
  const end = await rule(true, 1);
  const lost = await sendUnder('losesTexts', true);
  const late = await sendUnder('delaysTexts', LATE);
  const shown = await copies();
  expect(lost.texts.map((text) => shown.get(text))).toEqual(
    lost.texts.map(() => expect.objectContaining({ second: 1 })),
  );
  const went = await house.ctx.store.fallbacks.all({ message_id: late.ids, state: 'gone' });
  expect(went.length).toBeGreaterThan(0);
  const twice = late.texts.filter((_, index) => went.some(({ message_id }) => message_id === late.ids[index]));
  await until('the late ones are there twice', async () => {
    const now = await copies();
    return twice.every((text) => now.get(text)?.first === 1 && now.get(text)?.second === 1);
  });
  await until('their receipts are in', async () => {
    await house.bench.moveClock(20_000);
    return (await house.ctx.store.messages.count({ id: late.ids, state: 'delivered' })) === SENDS;
  });

  const hop = (await getTrail(house.ctx, SYSTEM, went[0]?.message_id ?? '')).legs[0]?.hops.find(
    ({ place }) => place === 'Second way',
  );
  expect(hop?.notes.join(' ')).toContain('the person has it twice');
  await end();
}, 300_000);

test('an app reads of the second way, and of both messages', async () => {
  const end = await rule(false);
  await house.bench.faults({ brackwater: { creditGone: true } });
  const { body } = await callApi(house, mossgate.apiKey, 'POST', '/messages', {
    to: INES,
    from: mossgate.channel.id,
    text: 'By an app',
  });
  expect(body.fallback).toEqual({ channelId: second.id, messageId: null });
  const next = await until('it went', () => house.ctx.store.messages.one({ instead_of: body.id, state: 'delivered' }));
  await house.bench.faults({ brackwater: { creditGone: false } });
  const read = async (id: string) => (await callApi(house, mossgate.apiKey, 'GET', `/messages/${id}`)).body;
  expect(await read(body.id)).toMatchObject({ state: 'failed', fallback: { messageId: next.id } });
  expect(await read(next.id)).toMatchObject({ state: 'delivered', insteadOf: body.id, channelId: second.id });
  await end();
});

test('what may not be sent over the second channel is not, and says so; a person who declined gets nothing', async () => {
  const end = await rule(false);
  await house.ctx.store.write((unit) =>
    unit.channels.change({ id: second.id }, { destinations: { countries: ['FR'], costly: [] } }),
  );
  await house.bench.setHandset(TOMAS, { power: 'off' });
  const { message } = await send(SYSTEM, { to: TOMAS, from: mossgate.channel.id, text: 'Not over there' });
  const row = await until('it is decided', () =>
    house.ctx.store.fallbacks.one({ message_id: message.id, state: 'impossible' }),
  );
  await house.bench.setHandset(TOMAS, { power: 'on' });
  expect(row.said).toBeTruthy();
  expect(row.said).not.toContain(TOMAS);
  expect((await house.ctx.store.messages.one({ id: message.id }))?.fallback_to).toBeNull();
  expect(await house.ctx.store.messages.one({ instead_of: message.id })).toBeUndefined();
  await house.ctx.store.write((unit) => unit.channels.change({ id: second.id }, { destinations: null }));
  await end();
});

test('the engine killed between the two ways sends each once', async () => {
  const end = await rule(false);
  await house.bench.faults({ brackwater: { creditGone: true } });
  const texts: string[] = [];
  const ids: string[] = [];
  for (let kill = 0; kill < 3; kill++) {
    const round = Array.from({ length: 20 }, (_, index) => `killed ${kill} ${index}`);
    const answers = await Promise.all(round.map((text) => send(SYSTEM, { to: INES, from: mossgate.channel.id, text })));
    const asked = answers.map(({ message }) => message.id);
    await until('the first went', () => house.ctx.store.fallbacks.count({ message_id: asked, state: 'gone' }));
    house.engine?.kill('SIGKILL');
    await house.startEngine();
    // Whoever was being asked when the engine died may have taken it: of those it is said that nothing else was sent.
    await until(
      'all are decided',
      async () =>
        (await house.ctx.store.fallbacks.count({ message_id: asked, state: ['gone', 'stays'] })) === asked.length,
    );
    texts.push(...round);
    ids.push(...asked);
  }
  await until('nothing waits', async () => (await house.ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0);
  await house.bench.faults({ brackwater: { creditGone: false } });
  await settle(house);
  const shown = await copies();
  // A trunk recognises no reference: what was under way when the engine died may be uncertain, and is not repeated.
  for (const text of texts) expect(shown.get(text)?.second ?? 0).toBeLessThanOrEqual(1);
  const uncertain = await house.ctx.store.messages.count({ instead_of: ids, state: 'uncertain' });
  const stayed = await house.ctx.store.fallbacks.count({ message_id: ids, state: 'stays' });
  expect(texts.filter((text) => shown.has(text)).length + uncertain + stayed).toBeGreaterThanOrEqual(texts.length);
  await end();
}, 300_000);
