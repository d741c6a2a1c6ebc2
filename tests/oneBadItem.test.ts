/** One item that cannot be worked through stops no other, and an engine always starts again. */
import { spawn } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { addFeed, listFeeds } from '../src/operations/apps/feeds/feeds';
import { SYSTEM } from '../src/operations/context/actor';
import { reworkInbound } from '../src/operations/inbound/reprocessInbound';
import { getTrail } from '../src/operations/log/trail';
import { createSender } from '../src/operations/outbound/sendMessage';
import { saveProfile } from '../src/operations/profiles/connectorProfiles';
import { examineNow } from '../src/operations/readiness/readiness';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { brackwaterProfile, end, type Installation, killHard, ROOT, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let calendars: Server;
const served = new Map<string, string>();

beforeAll(async () => {
  house = await startInstallation();
  // A profile of the same provider, written in the interface: known only to those who read the store.
  await saveProfile(
    house.ctx,
    SYSTEM,
    brackwaterProfile('harbour-http', (text) => text.replace('pace: 25', 'pace: 20')),
  );
  mossgate = await connectMossgate(house, 'harbour-http');
  calendars = createServer((request, response) => response.end(served.get(request.url ?? '')));
  await new Promise<void>((resolve) => calendars.listen(0, '127.0.0.1', resolve));
});
afterAll(async () => {
  calendars.close();
  await house.stop();
});

const inbound = async () => (await house.ctx.store.messages.all({ direction: 'in' })).map(({ text }) => text);

test('a stored request that cannot be worked through is set aside with its reason; its neighbours are in', async () => {
  const { ctx, bench } = house;
  await end(house.engine);
  for (const text of ['one', 'two', 'three', 'four']) await bench.type(INES, mossgate.channel.address, text);
  await until('all are stored', async () => (await ctx.store.inbound.count({ state: 'stored' })) === 4);
  const [first, second] = await ctx.store.inbound.all({ state: 'stored' }, { order: [['id', 'ASC']] });
  await ctx.store.write(async (unit) => {
    // Of an account that is no longer there, and a row that cannot even be read.
    await unit.inbound.change({ id: first?.id ?? '' }, { channel_id: 'chn_gone', account_id: 'acc_gone' });
    await unit.execute(`UPDATE inbound_requests SET headers = '{"half' WHERE id = :id`, { id: second?.id });
  });
  await house.startEngine();
  await until('the others are in', async () => (await inbound()).length === 2);
  const aside = await until('both are set aside', async () => {
    const rows = await ctx.store.inbound.all({ state: 'unreadable' }, { order: [['id', 'ASC']] });
    return rows.length === 2 && rows;
  });
  expect(aside).toMatchObject([
    { id: first?.id, cause: 'inbound-not-processed', outcome: { reason: expect.stringContaining('account') } },
    { id: second?.id, cause: 'inbound-not-processed', headers: { unreadable: '{"half' } },
  ]);
  const open = (await examineNow(ctx)).open.filter(({ about }) => about === 'set aside');
  expect(open).toMatchObject([{ problem: expect.stringContaining('A stored request could not be processed') }]);
  // What was wrong is put right, and somebody presses the button.
  const right = { channel_id: mossgate.channel.id, account_id: mossgate.accountId };
  await ctx.store.write((unit) => unit.inbound.change({ id: first?.id ?? '' }, right));
  await reworkInbound(ctx, SYSTEM, first?.id ?? '');
  await until('it is in', async () => (await inbound()).length === 3);
});

test('a text leased on a profile written in the interface keeps no engine from starting', async () => {
  const { ctx } = house;
  await killHard(house.engine);
  const send = createSender(ctx);
  const { message } = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Leased' });
  await ctx.store.write(async (unit) => {
    await unit.outbox.change({ message_id: message.id }, { state: 'leased', lease_owner: 'engine-1', attempts: 1 });
    await unit.messages.change({ id: message.id }, { state: 'sending' });
  });
  await house.startEngine();
  await until('it was asked again, and arrived', async () =>
    (await house.bench.received(INES)).some(({ text }) => text === 'Leased'),
  );
  expect((await getTrail(ctx, SYSTEM, message.id)).message.state).not.toBe('uncertain');
});

test('of two engines begun together one works, and the other touches nothing', async () => {
  await killHard(house.engine);
  const begun = [0, 1, 2].map(() =>
    spawn(process.execPath, ['dist/engine.mjs'], { cwd: ROOT, env: { ...process.env, ...house.env }, stdio: 'ignore' }),
  );
  const codes = begun.map((child) => new Promise((resolve) => child.once('exit', (code) => resolve(code))));
  // Two end by themselves, with the code that says why.
  const ended: unknown[] = [];
  for (const code of codes) void code.then((value) => ended.push(value));
  await until('two have ended', () => ended.length === 2);
  expect(ended).toEqual([3, 3]);
  await house.bench.type(INES, mossgate.channel.address, 'after the race');
  await until('the third works', async () => (await inbound()).includes('after the race'));
  house.engine = begun.find((child) => child.exitCode === null);
});

test('a log that nobody reads any more stops nothing', async () => {
  const { ctx } = house;
  const port = String(Number(house.env.PORT) + 1500);
  const web = spawn(process.execPath, ['dist/web.mjs'], {
    cwd: ROOT,
    env: { ...process.env, ...house.env, PORT: port },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const answers = async (path: string) =>
    (await fetch(`http://127.0.0.1:${port}${path}`, { signal: AbortSignal.timeout(5000) }).catch(() => undefined))
      ?.status;
  try {
    await until('it answers', async () => (await answers('/sign-in')) === 200);
    web.stdout.destroy();
    web.stderr.destroy();
    // A page that cannot be drawn is complained of, and nobody hears it.
    await ctx.store.write((unit) => unit.execute('ALTER TABLE users RENAME TO users_gone'));
    await answers('/sign-in');
    await answers('/');
    await ctx.store.write((unit) => unit.execute('ALTER TABLE users_gone RENAME TO users'));
    await until('it answers again', async () => (await answers('/sign-in')) === 200);
  } finally {
    await end(web);
  }
});

test('a calendar that never comes to an end stops neither the engine nor the other calendars', async () => {
  const { ctx } = house;
  const calendar = (rule: string) =>
    `BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Duty\r\nDTSTART:20260101T090000Z\r\n${rule}END:VEVENT\r\nEND:VCALENDAR`;
  served.set('/endless.ics', calendar('RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31\r\n'));
  served.set('/good.ics', calendar('RRULE:FREQ=DAILY\r\n'));
  const { port } = calendars.address() as { port: number };
  const add = (name: string) =>
    addFeed(ctx, SYSTEM, mossgate.appId, {
      name,
      url: `http://127.0.0.1:${port}/${name}.ics`,
      periodMinutes: 15,
      zone: 'Europe/London',
      dayTime: '09:00',
      offsets: [60],
      text: '{{ event.title }}',
      sender: { by: 'channel', channel: mossgate.channel.id },
      notify: '',
    });
  await add('endless');
  await add('good');
  const view = async (name: string) =>
    (await listFeeds(ctx, SYSTEM, mossgate.appId)).find(({ feed }) => feed.name === name);
  await until('the good one is read', async () => ((await view('good'))?.skipped.length ?? 0) > 0);
  const told = await until('the endless one is told', async () => (await view('endless'))?.feed.problems[0]);
  expect(told).toMatchObject({ title: 'Duty' });

  // Left by an engine that ended while it read: the next one says so, and does not begin with it.
  await end(house.engine);
  const at = Date.now();
  const [row] = await ctx.store.feeds.all({ name: 'good' });
  await ctx.store.write((unit) => unit.feeds.change({ id: row?.id ?? '' }, { read_began_at: at, synced_at: 0 }));
  await house.startEngine();
  await until('it is told', async () => (await view('good'))?.feed.problem?.includes('ended while it read'));
  expect((await ctx.store.feeds.one({ id: row?.id ?? '' }))?.synced_at).toBe(at);
});

test('an answer that cannot be noted keeps no other from being noted, and is worked on again without a restart', async () => {
  const { ctx, bench } = house;
  const send = createSender(ctx);
  const order = async (text: string) => (await send(SYSTEM, { to: INES, from: mossgate.channel.id, text })).message.id;
  await ctx.store.write((unit) =>
    unit.execute(`CREATE TRIGGER refuse_one BEFORE INSERT ON message_events WHEN new.kind = 'accepted'
        AND (SELECT text FROM messages WHERE id = new.message_id) = 'Cannot be noted'
      BEGIN SELECT RAISE(ABORT, 'this row cannot be written'); END`),
  );
  const texts = [...Array.from({ length: 7 }, (_, n) => `Noted ${n}`), 'Cannot be noted'];
  const ids = await Promise.all(texts.map(order));
  const bad = ids.at(-1) as string;
  const delivered = async (some: readonly string[]) =>
    (await ctx.store.messages.allBy('id', some)).every(({ state }) => state === 'delivered');
  await until('its neighbours are delivered', () => delivered(ids.slice(0, -1)));
  // Its receipt may tell the outcome; the claim is kept all the same.
  expect(await ctx.store.outbox.one({ message_id: bad })).toBeDefined();
  await ctx.store.write((unit) => unit.execute('DROP TRIGGER refuse_one'));
  await bench.moveClock(31_000);
  await until('nobody holds it any more', async () => !(await ctx.store.outbox.one({ message_id: bad })));
  await until('it is delivered too', () => delivered([bad]));
  expect((await bench.received(INES)).filter(({ text }) => text === 'Cannot be noted')).toHaveLength(1);
});
