/** Items at which Windgap fails: each alone, counted, set aside where a person sees it, and decided about. */
import { createServer, type Server } from 'node:http';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { listAlerts } from '../src/operations/alerts/list';
import { resumeSubscription, subscribe } from '../src/operations/apps/webhooks/subscriptions';
import type { Actor } from '../src/operations/context/actor';
import { SYSTEM } from '../src/operations/context/actor';
import { reworkInbound } from '../src/operations/inbound/reprocessInbound';
import { createSender } from '../src/operations/outbound/sendMessage';
import { saveProfile } from '../src/operations/profiles/connectorProfiles';
import { decideSetAside } from '../src/operations/setAside/decide';
import { viewQueues, viewSetAside } from '../src/operations/setAside/pages';
import { connectMossgate, INES, type Mossgate, noticeHook, postSigned } from './harness/mossgate';
import { brackwaterProfile, end, type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let server: Server;
const posted: string[] = [];

beforeAll(async () => {
  house = await startInstallation();
  await saveProfile(house.ctx, SYSTEM, swift(25));
  mossgate = await connectMossgate(house, 'swift');
  server = createServer((request, response) => {
    posted.push(request.url ?? '');
    response.writeHead(204).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
});
afterAll(async () => {
  server.close();
  await house.stop();
});

const swift = (pace: number, more: (text: string) => string = (text) => text) =>
  brackwaterProfile('swift', (text) => more(text.replace('pace: 25', `pace: ${pace + 1}`)));
const aside = () => viewSetAside(house.ctx, SYSTEM, false);
const damage = (sql: string, id: string) => house.ctx.store.write((unit) => unit.execute(sql, { id }));
const received = async () => (await house.bench.received(INES)).map(({ text }) => text);
const order = async (text: string) =>
  (await createSender(house.ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text })).message.id;

test('what is refused at the door for its shape waits for a decision, too, once however often it is brought', async () => {
  const { ctx } = house;
  const body = JSON.stringify({
    events: [{ kind: 'text-in', id: 'bwt_odd', from: INES, to: '+442079460114', at: 'now' }],
  });
  for (const _ of [1, 2, 3]) expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(422);
  // Whoever has no signature fills nobody's list.
  expect(await postSigned(mossgate.inboundUrl, 'another secret', body)).toBe(401);
  const items = await aside();
  expect(items).toMatchObject([{ queue: 'inbound', reason: 'nothing at $.text' }]);
  expect((await ctx.store.inbound.all({ cause: 'inbound-unreadable' })).map(({ state }) => state).sort()).toEqual([
    'refused',
    'refused',
    'unreadable',
  ]);
  await decideSetAside(ctx, SYSTEM, [items[0]?.key ?? ''], 'drop', 'A test');
});

test('a text that cannot be read delays no other; it is tried, set aside with its reason, and sent once it is fixed', async () => {
  const { ctx } = house;
  await end(house.engine);
  const bad = await order('Cannot be read');
  await damage(`UPDATE messages SET media = '{"half' WHERE id = :id`, bad);
  for (let n = 0; n < 5; n++) await order(`Beside it ${n}`);
  await house.startEngine();
  await until(
    'the others arrived',
    async () => (await received()).filter((text) => /Beside it/.test(text)).length === 5,
  );
  const item = await until('it is set aside', async () => (await aside())[0]);
  expect(item).toMatchObject({
    key: `sends:${bad}`,
    title: expect.stringContaining('Message to'),
    reason: expect.stringContaining('its media is damaged'),
    failures: 3,
    href: `/watch/messages/${bad}`,
    subject: { name: 'Harbour desk' },
  });
  expect((await viewQueues(ctx, SYSTEM)).find(({ name }) => name === 'sends')).toMatchObject({ waiting: 0, aside: 1 });
  const alert = await until('there is an alert', async () =>
    (await listAlerts(ctx, SYSTEM, false)).find(({ problem }) => problem.includes('could not be processed')),
  );
  await damage(`UPDATE messages SET media = NULL WHERE id = :id`, bad);
  await decideSetAside(ctx, SYSTEM, [item.key], 'process again');
  await until('it arrived', async () => (await received()).includes('Cannot be read'));
  expect(await aside()).toEqual([]);
  const over = await until('the alert ended', async () =>
    (await listAlerts(ctx, SYSTEM, true)).find(({ id }) => id === alert.id),
  );
  expect(over.ended).toBeGreaterThan(over.began);
});

test('a request that a profile cannot read waits with its reason, and is in once the profile is corrected', async () => {
  const { ctx, bench } = house;
  // It is taken in by the profile of then, and read by another: at the door it would have been refused.
  await end(house.engine);
  await bench.type(INES, mossgate.channel.address, 'For another shape');
  await until('it is stored', async () => (await ctx.store.inbound.count({ state: 'stored' })) > 0);
  await saveProfile(
    ctx,
    SYSTEM,
    swift(25, (text) => text.replace('text: $.text', 'text: $.words_of_it')),
    'swift',
  );
  await house.startEngine();
  const item = await until('it is set aside', async () => (await aside())[0]);
  expect(item).toMatchObject({ queue: 'inbound', subject: { name: 'Harbour desk' } });
  expect(item.reason).not.toBe('');
  await saveProfile(ctx, SYSTEM, swift(26), 'swift');
  await reworkInbound(ctx, SYSTEM, item.id);
  await until('it is in', async () => (await ctx.store.messages.count({ text: 'For another shape' })) === 1);
  expect(await aside()).toEqual([]);
});

test('a run that cannot be read stops no other run; dropped, it is over, with who decided and why', async () => {
  const { ctx } = house;
  const { id, url } = await noticeHook(house, mossgate.appId, mossgate.channel.id);
  await end(house.engine);
  const post = (words: string) =>
    fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ phone: INES, words }),
    });
  for (const words of ['Run one', 'Run two', 'Run three']) expect((await post(words)).status).toBe(202);
  const [first] = await ctx.store.runs.all({ source_id: id }, { order: [['id', 'ASC']] });
  await damage(`UPDATE runs SET steps = '[{"half' WHERE id = :id`, first?.id ?? '');
  await house.startEngine();
  await until('the others arrived', async () => (await received()).filter((text) => /^Run t/.test(text)).length === 2);
  const item = await until('it is set aside', async () => (await aside())[0]);
  const key = item.key;
  expect(item).toMatchObject({ queue: 'runs', reason: expect.stringContaining('steps is damaged') });
  const viewer: Actor = { kind: 'user', id: 'usr_1', name: 'Vera', role: 'viewer' } as never;
  await expect(decideSetAside(ctx, viewer, [key], 'drop', 'no')).rejects.toMatchObject({ kind: 'forbidden' });
  await expect(decideSetAside(ctx, SYSTEM, [key], 'drop')).rejects.toThrow(/reason/);
  await decideSetAside(ctx, SYSTEM, [key], 'drop', 'It was a test post');
  await expect(decideSetAside(ctx, SYSTEM, [key], 'process again')).rejects.toMatchObject({ kind: 'conflict' });
  const [entry] = await ctx.store.audit.all({ subject_id: first?.id ?? '' });
  expect(entry).toMatchObject({ action: 'set-aside.dropped', summary: expect.stringContaining('It was a test post') });
  expect((await viewSetAside(ctx, SYSTEM, true))[0]).toMatchObject({ key, decided: { how: 'dropped' } });
  await settle(house);
  expect(await received()).not.toContain('Run one');
});

test('a subscription that cannot be read is paused and loses nothing; the events of others go on', async () => {
  const { ctx, bench } = house;
  const { port } = server.address() as { port: number };
  const { id } = await subscribe(ctx, SYSTEM, { appId: mossgate.appId, url: `http://127.0.0.1:${port}/second` });
  await damage(`UPDATE webhook_subscriptions SET filter = '{"half' WHERE id = :id`, id);
  await bench.type(INES, mossgate.channel.address, 'While it cannot be read');
  await until('the other app has it', async () =>
    (await bench.lockbook()).events.some(({ message }) => message?.text === 'While it cannot be read'),
  );
  const paused = await until('it is paused', async () =>
    (
      await ctx.store.select<{ why: string | null }>(
        'SELECT paused_why AS why FROM webhook_subscriptions WHERE id = :id',
        {
          id,
        },
      )
    ).find(({ why }) => why !== null),
  );
  expect(paused.why).toBe('unreadable');
  await damage(`UPDATE webhook_subscriptions SET filter = '{}' WHERE id = :id`, id);
  await resumeSubscription(ctx, SYSTEM, id);
  await until('it has it, too', () => posted.includes('/second'));
});

test('what is leased and worked on by nobody is taken back, without a restart', async () => {
  const { ctx, bench } = house;
  await end(house.engine);
  await bench.type(INES, mossgate.channel.address, 'Leased and forgotten');
  await house.startEngine();
  await settle(house);
  const [delivery] = await ctx.store.deliveries.all({ state: 'delivered' }, { order: [['id', 'DESC']], limit: 1 });
  const [run] = await ctx.store.runs.all({ state: 'done' }, { order: [['id', 'DESC']], limit: 1 });
  // As an engine leaves it that could not note what it did.
  await ctx.store.write(async (unit) => {
    const leased_at = ctx.now();
    await unit.deliveries.change({ id: delivery?.id ?? '' }, { state: 'leased', lease_owner: 'engine', leased_at });
    await unit.runs.change(
      { id: run?.id ?? '' },
      { state: 'due', next: 0, ended_at: null, lease_owner: 'engine', leased_at },
    );
  });
  await bench.moveClock(61_000);
  await until('both are done again', async () => {
    const again = await ctx.store.deliveries.one({ id: delivery?.id ?? '' });
    const done = await ctx.store.runs.one({ id: run?.id ?? '' });
    return again?.state === 'delivered' && done?.state === 'done';
  });
});
