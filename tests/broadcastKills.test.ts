/** A broadcast while the engine and the web server are killed over and over: each of its people gets one message or one reason. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import { startBroadcast } from '../src/operations/broadcasts/course';
import { askForPlan, createBroadcast, saveBroadcast } from '../src/operations/broadcasts/writing/drafts';
import { giveList } from '../src/operations/broadcasts/writing/lists';
import type { Actor } from '../src/operations/context/actor';
import { counts } from './harness/chaos';
import { connectMossgate, type Mossgate } from './harness/mossgate';
import { brackwaterProfile, type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

const { people, kills } = counts({ people: 300, kills: 4 }, { people: 100_000, kills: 20 });
/** Texts a second: they take a few seconds for each kill. */
const PACE = counts(60, 1000);
/** One in so many lines of the list cannot be written to. */
const BAD_EVERY = 50;
const owner: Actor = { kind: 'user', id: 'usr_ada', name: 'Ada', role: 'owner' };
const numberOf = (index: number) => `+4474000${String(index).padStart(5, '0')}`;

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation({
    perSecond: 2 * PACE,
    profiles: {
      'wide.yaml': brackwaterProfile('wide', (text) =>
        text.replace('pace: 25, concurrency: 8', `pace: ${PACE}, concurrency: 32`),
      ),
    },
  });
  mossgate = await connectMossgate(house, 'wide', PACE);
  await house.bench.addPopulation({ from: numberOf(0), count: people, off: 0.02 });
});
afterAll(() => house.stop());

/** In lists of as many lines as one may have. */
async function draftFor(from: number, count: number): Promise<string> {
  const { ctx } = house;
  const { id } = await createBroadcast(ctx, owner, `Stoppage from ${from}`);
  const lines = Array.from({ length: count }, (_, index) => {
    const n = from + index;
    return `${n % BAD_EVERY === BAD_EVERY - 1 ? 'no number' : numberOf(n)},Skipper ${n}`;
  });
  await giveList(ctx, owner, id, {
    name: 'people.csv',
    content: Buffer.from(['phone,name', ...lines].join('\n')),
    version: 1,
  });
  const { version } = await row(id);
  await saveBroadcast(ctx, owner, id, {
    version,
    definition: {
      ...EMPTY_DEFINITION,
      message: { ...EMPTY_DEFINITION.message, text: 'Once for {{ name }}' },
      audience: { include: [{ by: 'list' }], exclude: [] },
      channels: [mossgate.channel.id],
      quietHours: false,
      rules: { ...EMPTY_DEFINITION.rules, first: 0, failed: 1, silent: 1 },
    },
  });
  await askForPlan(ctx, owner, id, (await row(id)).version);
  return id;
}

async function row(id: string) {
  const found = await house.ctx.store.broadcasts.one({ id });
  if (!found) throw new Error('The broadcast is gone');
  return found;
}

const taken = async () => {
  const [found] = await house.ctx.store.select<{ n: number | null }>(
    `SELECT sum(n) AS n FROM broadcast_counts WHERE state NOT IN ('left-out', 'planned', 'queued')`,
  );
  return found?.n ?? 0;
};

test(`${people} people, ${kills} kills: each has one message or one reason, and the provider nothing twice`, async () => {
  const { ctx, bench } = house;
  const id = await draftFor(0, people);
  await until('it is planned', async () => (await row(id)).state === 'draft');
  const { version, plan } = await row(id);
  const bad = Math.floor(people / BAD_EVERY);
  expect(plan).toMatchObject({ people, going: people - bad, leftOut: { 'address-invalid': bad } });
  await startBroadcast(ctx, owner, id, { version, reason: 'To see it through kills' });
  for (let kill = 1; kill <= kills; kill++) {
    const wanted = (kill * (people - bad)) / (kills + 1);
    await until(`${Math.round(wanted)} have left`, async () => (await taken()) >= wanted, 20);
    if (kill % 2 === 1) {
      await killHard(house.engine);
      await house.startEngine();
    } else {
      await killHard(house.web);
      await house.startWeb();
    }
  }
  await until('it is finished', async () => (await row(id)).state === 'finished');
  await until('all is known', async () => {
    const open = await ctx.store.broadcastRecipients.count({ broadcast_id: id, state: ['sent', 'uncertain'] });
    return open === 0;
  });
  const sent = (await bench.texts()).filter(
    ({ direction, text }) => direction === 'out' && text.startsWith('Once for '),
  );
  const copies = new Map<string, number>();
  for (const { to } of sent) copies.set(to, (copies.get(to) ?? 0) + 1);
  expect([copies.size, Math.max(...copies.values())]).toEqual([people - bad, 1]);
  expect(await ctx.store.messages.count({ origin_id: id })).toBe(people - bad);
  const rows = await ctx.store.select<{ state: string; message: number; reason: number; n: number }>(
    `SELECT state, message_id IS NOT NULL AS message, reason <> '' AS reason, count(*) AS n
       FROM broadcast_recipients WHERE broadcast_id = :id GROUP BY 1, 2, 3 ORDER BY 1`,
    { id },
  );
  expect(rows.filter(({ message, state }) => message !== Number(state !== 'left-out'))).toEqual([]);
  expect(rows.find(({ state }) => state === 'left-out')).toMatchObject({ message: 0, reason: 1, n: bad });
  const kept = await ctx.store.select(
    `SELECT state, sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id GROUP BY state HAVING sum(n) > 0 ORDER BY state`,
    { id },
  );
  expect(kept).toEqual(rows.map(({ state, n }) => ({ state, n })));
  const failed = rows.find(({ state }) => state === 'failed');
  const reached = rows.find(({ state }) => state === 'delivered');
  expect((failed?.n ?? 0) + (reached?.n ?? 0)).toBe(people - bad);
});
