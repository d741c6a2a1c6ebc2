/**
 * Broadcasts in numbers: planning for 100,000 people, the pace they leave at, how long a reply waits in the middle of one, and
 * what the pages of one cost.
 */
import { setTimeout as pause } from 'node:timers/promises';
import sqlite3 from 'sqlite3';
import { EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import { cancelBroadcast, startBroadcast } from '../src/operations/broadcasts/course';
import { askForPlan, createBroadcast, saveBroadcast } from '../src/operations/broadcasts/writing/drafts';
import { newContact } from '../src/operations/contacts/newContact';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { addIdentities, phone } from '../src/operations/identities/identities';
import { createSender } from '../src/operations/outbound/sendMessage';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { newId } from '../src/store/ids';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMossgate, INES } from '../tests/harness/mossgate';
import { connectTrunk, untilBound } from '../tests/harness/ostrel';
import { brackwaterProfile, type Installation, startInstallation } from '../tests/harness/processes';
import { cookieOf } from '../tests/harness/session';
import { until } from '../tests/harness/until';
import { median } from './load';
import { peakMiB } from './sheets';

const PEOPLE = Number(process.env.BENCH_BROADCAST_PEOPLE ?? 100_000);
/** Texts a second of each line. */
const PACE = 100;
const REPLIES = Number(process.env.BENCH_BROADCAST_REPLIES ?? 100);
const PAGES = 30;
const owner: Actor = { kind: 'user', id: 'usr_bench', name: 'Bench', role: 'owner' };

export async function broadcasts(): Promise<void> {
  const house = await startInstallation({
    perSecond: 400,
    profiles: { 'wide.yaml': brackwaterProfile('wide', (text) => text.replace('pace: 25', `pace: ${PACE}`)) },
  });
  try {
    await fill(house);
    await house.bench.addPopulation({ from: numberOf(0), count: PEOPLE });
    const { channel } = await connectMossgate(house, 'wide', PACE);
    const trunk = await connectTrunk(house, { settings: { pace: PACE, window: 50 } });
    await untilBound(house, trunk.accountId);
    // No app listens: telling it would be work of its own.
    await house.ctx.store.write((unit) => unit.subscriptions.change({}, { disabled_at: Date.now() }));
    const small = await planned(house, channel, 20);
    const large = await planning(house, channel);
    await running(house, 'HTTP', channel, large);
    await running(house, 'trunk', trunk.channel, await planned(house, trunk.channel));
    await pages(house, small, large);
  } finally {
    await house.stop();
  }
}

const numberOf = (index: number) => `+4474000${String(index).padStart(5, '0')}`;

async function fill({ ctx }: Installation): Promise<void> {
  const at = Date.now();
  for (let from = 0; from < PEOPLE; from += 20_000) {
    const people = Array.from({ length: Math.min(20_000, PEOPLE - from) }, (_, index) => ({
      id: newId('con', at + from + index),
      value: numberOf(from + index),
      name: `Skipper ${from + index}`,
    }));
    await ctx.store.write(async (unit) => {
      await unit.contacts.insert(people.map(({ id, name, value }) => newContact(id, name, phone(value), at)));
      await addIdentities(
        unit,
        people.map(({ id, value }) => ({ ...phone(value), contactId: id })),
        { at, source: 'import', why: 'bench', by: 'bench' },
      );
      await unit.contactTags.insert(
        people.map(({ id }, index) => ({ contact_id: id, tag: from + index < 20 ? 'few' : 'many' })),
      );
    });
  }
}

/** A broadcast to all of them, or to the first few. */
async function planned({ ctx }: Installation, channel: ChannelRow, people = PEOPLE): Promise<string> {
  const { id } = await createBroadcast(ctx, owner, `Stoppage for ${people}`);
  const tag = {
    by: 'filter' as const,
    conditions: { match: 'all' as const, of: [{ on: 'tag' as const, is: 'has' as const, tag: 'few' }] },
  };
  await saveBroadcast(ctx, owner, id, {
    version: 1,
    definition: {
      ...EMPTY_DEFINITION,
      message: { ...EMPTY_DEFINITION.message, text: 'The lock at Tern is closed until Friday, {{ first_name }}.' },
      audience: { include: [people < PEOPLE ? tag : { by: 'everybody' }], exclude: [] },
      channels: [channel.id],
      quietHours: false,
      rules: { ...EMPTY_DEFINITION.rules, first: 0, silent: 1, failed: 1 },
    },
  });
  await askForPlan(ctx, owner, id, await versionOf(ctx, id));
  await until('it is planned', async () => (await ctx.store.broadcasts.one({ id }))?.state === 'draft');
  return id;
}

async function versionOf({ store }: Installation['ctx'], id: string): Promise<number> {
  return (await store.broadcasts.one({ id }))?.version ?? 0;
}

/** How long a plan takes, and what else has to wait meanwhile; beside a bare statement that reads the same rows. */
async function planning(house: Installation, channel: ChannelRow): Promise<string> {
  const { engine, origin } = house;
  const idle = await bareReading(house);
  await fetch(`${origin}/sign-in`).then((answer) => answer.text());
  const before = peakMiB(engine?.pid);
  const waits: number[] = [];
  let isPlanning = true;
  const meanwhile = (async () => {
    while (isPlanning) {
      const began = performance.now();
      await fetch(`${origin}/sign-in`).then((answer) => answer.text());
      waits.push(performance.now() - began);
      await pause(100);
    }
  })();
  const began = performance.now();
  const id = await planned(house, channel);
  const seconds = (performance.now() - began) / 1000;
  isPlanning = false;
  await meanwhile;
  const plan = (await house.ctx.store.broadcasts.one({ id }))?.plan;
  if (plan?.going !== PEOPLE) throw new Error(`Left out: ${JSON.stringify(plan?.leftOut)}`);
  console.log(
    `Plan of ${plan?.people} people (${plan?.going} get it): ${seconds.toFixed(1)} s, against ${idle.toFixed(1)} s for reading the same rows with bare statements: ratio ${(seconds / idle).toFixed(1)}; engine at most ${peakMiB(engine?.pid)} MiB, before it ${before} MiB; a page meanwhile median ${median(waits).toFixed(0)} ms, p99 ${p99(waits).toFixed(0)} ms`,
  );
  return id;
}

/** Contacts, identities, consents, attributes and conversations of everybody, as pages of prepared statements. */
async function bareReading({ env }: Installation): Promise<number> {
  const database = new sqlite3.Database(`${env.WINDGAP_DATA}/windgap.db`, sqlite3.OPEN_READONLY);
  const all = (statement: sqlite3.Statement, ...values: unknown[]) =>
    new Promise<{ id: string }[]>((resolve, reject) =>
      statement.all(...values, (error: Error | null, rows: { id: string }[]) =>
        error ? reject(error) : resolve(rows),
      ),
    );
  const page = database.prepare('SELECT * FROM contacts WHERE merged_into IS NULL AND id > ? ORDER BY id LIMIT 250');
  const others = ['contact_identities', 'contact_attributes', 'contact_consents', 'reply_windows', 'conversations'].map(
    (table) => database.prepare(`SELECT t.* FROM json_each(?) k CROSS JOIN ${table} t ON t.contact_id = k.value`),
  );
  const began = performance.now();
  for (let after = ''; ; ) {
    const rows = await all(page, after);
    const ids = JSON.stringify(rows.map(({ id }) => id));
    for (const other of others) await all(other, ids);
    if (rows.length < 250) break;
    after = rows.at(-1)?.id ?? '';
  }
  const seconds = (performance.now() - began) / 1000;
  for (const statement of [page, ...others]) statement.finalize();
  await new Promise((resolve) => database.close(resolve));
  return seconds;
}

/** The share of its pace it leaves at, and how long replies take on the same channel before and in the middle of it. */
async function running(house: Installation, way: string, channel: ChannelRow, id: string): Promise<void> {
  const { ctx } = house;
  const idle = await replies(house, channel);
  await startBroadcast(ctx, owner, id, { version: await versionOf(ctx, id), reason: 'For the figures' });
  await until('it is well under way', async () => (await leftOf(house, id)) > PACE * 5);
  const from = { left: await leftOf(house, id), at: performance.now() };
  await pause(20_000);
  const used = ((await leftOf(house, id)) - from.left) / ((performance.now() - from.at) / 1000) / PACE;
  const busy = await replies(house, channel);
  await cancelBroadcast(ctx, owner, id);
  const turn = 1000 / PACE;
  console.log(
    `Broadcast over ${way} at ${PACE} a second: ${(used * 100).toFixed(1)} % of the pace used; a reply arrives after ${median(idle).toFixed(0)} ms idle (p99 ${p99(idle).toFixed(0)}), in the middle of it after ${median(busy).toFixed(0)} ms (p99 ${p99(busy).toFixed(0)}): ratio without one turn of ${turn} ms ${((median(busy) - turn) / median(idle)).toFixed(2)}`,
  );
}

async function leftOf({ ctx }: Installation, id: string): Promise<number> {
  const [row] = await ctx.store.select<{ n: number | null }>(
    `SELECT sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id AND state NOT IN ('left-out', 'planned', 'queued')`,
    { id },
  );
  return row?.n ?? 0;
}

/** From the moment somebody answers until the handset shows it, one after the other. */
async function replies({ ctx, bench }: Installation, channel: ChannelRow): Promise<number[]> {
  const send = createSender(ctx);
  const times: number[] = [];
  for (let index = 0; index < REPLIES; index++) {
    const words = `Yes, ${newId('msg', Date.now())}`;
    const began = Date.now();
    await send(SYSTEM, { to: INES, from: channel.id, text: words });
    const arrived = await until('the reply is there', async () =>
      (await bench.received(INES)).find(({ text }) => text === words),
    );
    times.push(Date.parse(arrived.at) - began);
    // At any moment of a second.
    await pause((index * 37) % 200);
  }
  return times;
}

/** The page of a broadcast to 20 and of one to twice as many as are planned here, and the list that has both. */
async function pages(house: Installation, small: string, large: string): Promise<void> {
  const { ctx, origin } = house;
  const columns =
    'kind, scope, value, state, reason, said, channel_id, country, due_at, language, parts, price_micros, price_currency, fields, replied_at, pressed, opted_out_at, contact_id';
  await ctx.store.write((unit) =>
    unit.execute(
      `INSERT INTO broadcast_recipients (broadcast_id, seq, message_id, ${columns})
       SELECT broadcast_id, seq + 1000000, NULL, ${columns.replace('value,', `value || '0',`)} FROM broadcast_recipients WHERE broadcast_id = :id`,
      { id: large },
    ),
  );
  const email = 'maren@mossgate.example';
  await createFirstOwner(ctx, { name: 'Maren', email, password: 'towpath at low water' });
  const cookie = await cookieOf(ctx, email);
  const timed = async (path: string) => {
    const times: number[] = [];
    for (let index = 0; index < PAGES + 5; index++) {
      const began = performance.now();
      const answer = await fetch(origin + path, { headers: { cookie } });
      await answer.text();
      if (answer.status !== 200) throw new Error(`${path} answered ${answer.status}`);
      if (index >= 5) times.push(performance.now() - began);
    }
    return median(times);
  };
  const [few, many, list] = [
    await timed(`/send/broadcasts/${small}`),
    await timed(`/send/broadcasts/${large}`),
    await timed('/send/broadcasts'),
  ];
  const people = await ctx.store.broadcastRecipients.count({ broadcast_id: large });
  console.log(
    `Page of a broadcast: ${few.toFixed(0)} ms for 20 people, ${many.toFixed(0)} ms for ${people}: ratio ${(many / few).toFixed(2)}; the list with both ${list.toFixed(0)} ms`,
  );
}

function p99(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length * 0.99)] ?? Number.NaN;
}
