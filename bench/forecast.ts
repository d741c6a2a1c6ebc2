/** How far what a plan says of the last message is from when the engine really hands it over, on set-ups drawn at random. */
import { EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import { connectProvider } from '../src/operations/accounts/accounts';
import { startBroadcast } from '../src/operations/broadcasts/course';
import { askForPlan, createBroadcast, saveBroadcast } from '../src/operations/broadcasts/writing/drafts';
import { giveList } from '../src/operations/broadcasts/writing/lists';
import { openChannel } from '../src/operations/channels/channels';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import type { ChannelRow } from '../src/store/schema/rows';
import { credentialsOf } from '../tests/harness/mossgate';
import { connectTrunk, untilBound } from '../tests/harness/ostrel';
import { brackwaterProfile, type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { random } from './routes';

const SETUPS = Number(process.env.BENCH_FORECASTS ?? 50);
/** Run beside each other, each over a channel of its own. */
const AT_ONCE = 8;
const SEED = Number(process.env.WINDGAP_SEED ?? 20_260_504);
const owner: Actor = { kind: 'user', id: 'usr_bench', name: 'Bench', role: 'owner' };
const numberOf = (index: number) => `+4474000${String(index).padStart(5, '0')}`;

interface Setup {
  name: string;
  way: 'http' | 'trunk' | 'shared';
  pace: number;
  people: number;
  parts: number;
  usefulMinutes: number | null;
}

interface Outcome {
  setup: Setup;
  error: number;
  forecast: string;
  real: string;
}

export async function forecasts(): Promise<void> {
  const house = await startInstallation({
    perSecond: 400,
    profiles: { 'wide.yaml': brackwaterProfile('wide', (text) => text.replace('pace: 25', 'pace: 100')) },
    outside: ({ accounts }) => {
      const [first] = accounts;
      const [pattern] = first?.numbers ?? [];
      for (let n = 0; first && pattern && n < AT_ONCE; n++)
        first.numbers.push({ ...pattern, handle: `f-${n}`, number: `+4477009009${String(70 + n)}` });
    },
  });
  try {
    await house.bench.addPopulation({ from: numberOf(0), count: 100_000 });
    const channels = await channelsOf(house);
    const trunk = await connectTrunk(house, { settings: { pace: 20, window: 20 } });
    await untilBound(house, trunk.accountId);
    const next = random(SEED);
    const draw = () => next(1000) / 1000;
    const setups = Array.from({ length: SETUPS }, (_, index) => drawn(index, draw));
    const outcomes: Outcome[] = [];
    const trunks = setups.filter(({ way }) => way === 'trunk');
    const others = setups.filter(({ way }) => way !== 'trunk');
    const overTrunk = (async () => {
      for (const setup of trunks) outcomes.push(...(await tried(house, trunk.channel, [setup])));
    })();
    await Promise.all([
      overTrunk,
      ...channels.map(async (channel) => {
        for (let setup = others.shift(); setup; setup = others.shift())
          outcomes.push(...(await tried(house, channel, setup.way === 'shared' ? [setup, setup] : [setup])));
      }),
    ]);
    const far = outcomes.filter(({ error }) => error > 0.05);
    const worst = Math.max(...outcomes.map(({ error }) => error));
    console.log(
      `Forecasts of ${outcomes.length} broadcasts in ${SETUPS} set-ups (seed ${SEED}) against the engine: ${outcomes.length - far.length} within 5 %, the worst ${(worst * 100).toFixed(1)} % off`,
    );
    for (const { setup, error, forecast, real } of far)
      console.log(`  ${(error * 100).toFixed(1)} % off: ${setup.name}: forecast ${forecast}, really ${real}`);
  } finally {
    await house.stop();
  }
}

/** Numbers of Brackwater that are there for this, each as a channel. */
async function channelsOf(house: Installation): Promise<ChannelRow[]> {
  const { ctx } = house;
  const { id: accountId } = await connectProvider(ctx, SYSTEM, {
    connector: 'wide',
    name: 'Main account',
    credentials: credentialsOf(house),
  });
  const numbers = (await ctx.store.numbers.all({ account_id: accountId })).filter(({ remote_id }) =>
    remote_id?.startsWith('f-'),
  );
  const channels: ChannelRow[] = [];
  for (const [index, { id: numberId }] of numbers.entries()) {
    const { id } = await openChannel(ctx, SYSTEM, { numberId, name: `Notices ${index + 1}` });
    channels.push((await ctx.store.channels.one({ id })) as ChannelRow);
  }
  return channels;
}

/** Lasts a few dozen seconds. */
function drawn(index: number, draw: () => number): Setup {
  const way = (['http', 'http', 'http', 'shared', 'trunk'] as const)[index % 5] as Setup['way'];
  const pace = way === 'trunk' ? 20 : Math.round(1 + draw() * 9);
  const parts = draw() < 0.3 ? 1 + Math.ceil(draw() * 3) : 1;
  const seconds = 15 + draw() * 30;
  const people = Math.max(5, Math.round((seconds * pace) / (way === 'trunk' ? parts : 1) / (way === 'shared' ? 2 : 1)));
  const usefulMinutes = way === 'http' && draw() < 0.2 ? 1 : null;
  return {
    name: `${way}, ${people} people at ${pace} a second, ${parts} parts${usefulMinutes ? ', of use for a minute' : ''}`,
    way,
    pace,
    people: usefulMinutes ? people * 4 : people,
    parts,
    usefulMinutes,
  };
}

/** Broadcasts over one channel, planned and started one after the other and running beside each other. */
async function tried(house: Installation, channel: ChannelRow, setups: Setup[]): Promise<Outcome[]> {
  const { ctx } = house;
  const [{ pace, way } = setups[0] as Setup] = setups;
  if (way !== 'trunk') await ctx.store.write((unit) => unit.channels.change({ id: channel.id }, { pace }));
  const ids: string[] = [];
  for (const setup of setups) ids.push(await draftOf(house, channel, setup));
  const started: { id: string; setup: Setup; at: number; last: number; leaving: number }[] = [];
  for (const [index, id] of ids.entries()) {
    await askForPlan(ctx, owner, id, await versionOf(house, id));
    const plan = await until('it is planned', async () => {
      const row = await ctx.store.broadcasts.one({ id });
      return row?.state === 'draft' ? row.plan : undefined;
    });
    await startBroadcast(ctx, owner, id, { version: await versionOf(house, id), reason: 'For the figures' });
    const { at, last = at, going, tooLate } = plan;
    started.push({ id, setup: setups[index] as Setup, at, last, leaving: going - tooLate });
  }
  const outcomes: Outcome[] = [];
  for (const { id, setup, at, last, leaving } of started) {
    await until('it is finished', async () => (await ctx.store.broadcasts.one({ id }))?.state === 'finished');
    const [real] = await ctx.store.select<{ began: number; first: number; last: number; n: number }>(
      `SELECT (SELECT started_at FROM broadcasts WHERE id = :id) AS began, min(e.at) AS first, max(e.at) AS last, count(*) AS n FROM messages m JOIN message_events e ON e.message_id = m.id AND e.kind = 'accepted'
        WHERE m.origin_id = :id`,
      { id },
    );
    // The first of two does not know of the second, which is started after it.
    if (setups.length > 1 && id === started[0]?.id) continue;
    // What was planned is begun a moment later.
    const { began = at, first = at, last: end = at, n = 0 } = real ?? {};
    const off = setup.usefulMinutes
      ? Math.abs(n - leaving) / leaving
      : Math.abs(end - began - (last - at)) / (last - at);
    const seconds = (ms: number) => (ms / 1000).toFixed(1);
    outcomes.push({
      setup,
      error: off,
      forecast: `${seconds(last - at)} s for ${leaving}`,
      real: `${seconds(end - began)} s for ${n}, the first of them after ${seconds(first - began)} s`,
    });
  }
  return outcomes;
}

let given = 0;

async function draftOf({ ctx }: Installation, channel: ChannelRow, setup: Setup): Promise<string> {
  const { id } = await createBroadcast(ctx, owner, setup.name.slice(0, 100));
  const lines = Array.from({ length: setup.people }, () => numberOf(given++));
  await giveList(ctx, owner, id, { table: ['phone', ...lines].join('\n'), version: 1 });
  await saveBroadcast(ctx, owner, id, {
    version: await versionOf({ ctx }, id),
    definition: {
      ...EMPTY_DEFINITION,
      message: { ...EMPTY_DEFINITION.message, text: 'x'.repeat(setup.parts === 1 ? 100 : 153 * setup.parts - 10) },
      audience: { include: [{ by: 'list' }], exclude: [] },
      channels: [channel.id],
      quietHours: false,
      usefulMinutes: setup.usefulMinutes,
      rules: { ...EMPTY_DEFINITION.rules, first: 0, failed: 1, silent: 1 },
    },
  });
  return id;
}

async function versionOf({ ctx: { store } }: Pick<Installation, 'ctx'>, id: string): Promise<number> {
  return (await store.broadcasts.one({ id }))?.version ?? 0;
}
