/** The checks of readiness on a real store: each with what makes it speak, and with what must not. */
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { createApp } from '../src/operations/apps/apps';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { CHECKS } from '../src/operations/readiness/checks';
import { accountPart, examineParts, partsTouched } from '../src/operations/readiness/readinessChecks';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, publishRoutes, route } from './harness/routes';

const DAY = 86_400_000;
let house: Installation;
let mossgate: Mossgate;
let app: string;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  mossgate = await connectMossgate(house);
  app = (await createApp(house.ctx, SYSTEM, { name: 'Second desk', description: '' })).id;
});
afterAll(() => house.stop());

const set = (sql: string, values: Record<string, unknown> = {}) =>
  house.ctx.store.write((unit) => unit.execute(sql, values));
const found = async (part: string) =>
  ((await examineParts(house.ctx, [part])).get(part) ?? []).map(({ code, severity }) => `${severity} ${code}`);
const ofAccount = async (...codes: string[]) =>
  (await found(accountPart(mossgate.accountId))).filter((each) => codes.some((code) => each.endsWith(` ${code}`)));
const traffic = (value: object) =>
  house.ctx.store.write((unit) =>
    unit.settings.put({
      name: 'readiness-traffic',
      value: { at: house.ctx.now(), perDay: {}, spent: {}, people: [], ...value },
    }),
  );

beforeEach(() => traffic({}));

test('people in a country that is off, and only where the provider tells', async () => {
  const facts = async (countries?: string[]) => {
    const account = await house.ctx.store.accounts.one({ id: mossgate.accountId });
    await house.ctx.store.write((unit) =>
      unit.accounts.change({ id: mossgate.accountId }, { facts: { ...account?.facts, countries } }),
    );
  };
  const channel = mossgate.channel.id;
  await traffic({ people: [{ channel, country: 'GB', n: 40 }] });
  await facts(['GB', 'SE']);
  expect(await ofAccount('country-off')).toEqual([]);
  await traffic({ people: [{ channel, country: 'FR', n: 2 }] });
  expect(await ofAccount('country-off')).toEqual(['attention country-off']);
  await facts(undefined);
  expect(await ofAccount('country-off')).toEqual([]);
});

test('a number that is gone, and nothing of an account that was let go', async () => {
  await set('UPDATE provider_numbers SET gone_at = :at WHERE id = :id', {
    at: house.ctx.now() - DAY,
    id: mossgate.channel.number_id,
  });
  expect(await ofAccount('number-gone')).toEqual(['error number-gone']);
  await set('UPDATE provider_accounts SET disabled_at = 1');
  expect(await ofAccount('number-gone')).toEqual([]);
  await set('UPDATE provider_accounts SET disabled_at = NULL');
  await set('UPDATE provider_numbers SET gone_at = NULL');
});

test('a queue that stands for longer than two minutes', async () => {
  const { id: channel, address } = mossgate.channel;
  await createSender(house.ctx)(SYSTEM, { to: INES, text: 'The lock opens at nine.', from: address });
  const due = (ago: number) => set('UPDATE outbox SET due_at = :due', { due: house.ctx.now() - ago });
  await due(60_000);
  expect(await ofAccount('queue-behind')).toEqual([]);
  await due(600_000);
  expect(await ofAccount('queue-behind')).toEqual(['attention queue-behind']);
  await set('DELETE FROM outbox WHERE channel_id = :channel', { channel });
});

test.each([
  [3.1e6, []],
  [2.9e6, ['attention credit-low']],
  // Nothing left is said by the examination of the account.
  [0, []],
])('credit of %i after seven days of a million each', async (balance, expected) => {
  await traffic({ spent: { [mossgate.accountId]: 7e6 } });
  await set('UPDATE provider_accounts SET balance_micros = :balance', { balance });
  expect(await ofAccount('credit-low')).toEqual(expected);
});

test('told and deaf, listening and told nothing', async () => {
  // Another app listens already, and a route tells it.
  expect(await found('app-events')).toEqual([]);
  await publishRoutes(house.ctx, [route('everything', all(), [{ do: 'tell', app }])]);
  expect((await found('app-events')).sort()).toEqual(['attention app-not-routed', 'error event-not-subscribed']);
});

test('a key that ended in use, and not one that another took over from', async () => {
  const { id } = await createApiKey(house.ctx, SYSTEM, { appId: app, name: 'Server' });
  const now = house.ctx.now();
  const used = (ago: number) =>
    set('UPDATE api_keys SET expires_at = :ended, last_used_at = :used WHERE id = :id', {
      ended: now - 2 * DAY,
      used: now - ago,
      id,
    });
  await used(2 * DAY);
  expect(await found('app-keys')).toEqual(['error key-expired']);
  await used(9 * DAY);
  expect(await found('app-keys')).toEqual([]);
  await used(2 * DAY);
  const other = await createApiKey(house.ctx, SYSTEM, { appId: app, name: 'Its successor' });
  await set('UPDATE api_keys SET last_used_at = :now WHERE id = :id', { now, id: other.id });
  expect(await found('app-keys')).toEqual([]);
});

test('a draft is somebody at work, until it has lain for a day', async () => {
  expect(await found('route-draft')).toEqual([]);
  const draft = (age: number) =>
    house.ctx.store.write((unit) =>
      unit.routeDrafts.put({
        id: 'draft',
        content: { routes: [], hours: [] },
        changed_at: house.ctx.now() - age,
        by: 'Priya',
      }),
    );
  await draft(1000);
  expect(await found('route-draft')).toEqual(['notice draft-unpublished']);
  await draft(2 * DAY);
  expect(await found('route-draft')).toEqual(['attention draft-unpublished']);
});

test('a route that took messages and is off', async () => {
  await publishRoutes(house.ctx, [{ ...route('locks', all(), []), off: true }]);
  expect(await found('routes-off')).toEqual([]);
  await set('INSERT INTO route_hits (route_id, day, hits) VALUES (:id, :day, 4)', {
    id: 'locks',
    day: Math.floor(house.ctx.now() / DAY),
  });
  expect(await found('routes-off')).toEqual(['notice route-switched-off']);
});

test('a change is answered by the checks that named its topic, and by no others', async () => {
  const touched = async (topic: 'routes' | 'template' | 'message' | 'channel', subject = 'x') =>
    [...(await partsTouched(house.ctx, [{ topic, subject }]))].sort();
  expect(await touched('message')).toEqual([]);
  expect(await touched('template')).toEqual(['routes', 'templates']);
  expect(await touched('channel', mossgate.channel.id)).toEqual([accountPart(mossgate.accountId)]);
  expect(await touched('channel', '*')).toEqual(
    [...CHECKS.map(({ name }) => name), accountPart(mossgate.accountId)].sort(),
  );
});

test('a delivery test that is watched and failed last, since when; not one that was stopped, and none that runs by hand', async () => {
  const at = house.ctx.now();
  const insert = (id: string, every: number | null, guards: number) =>
    set(
      `INSERT INTO delivery_tests (id, name, content, every_minutes, guards_publishing, created_at, changed_at, changed_by)
       VALUES (:id, :id, '{}', :every, :guards, 0, 0, '')`,
      { id, every, guards },
    );
  const run = (test: string, n: number, state: string) =>
    set(
      `INSERT INTO delivery_test_runs (id, test_id, name, content, why, asked_by, asked_at, state, ended_at, rounds, problem)
       VALUES (:id, :test, '', '{}', 'schedule', '', 0, :state, :at, '[]', 'Nothing came in')`,
      { id: `dtr_${test}${n}`, test, state, at: at + n },
    );
  await insert('watched', 60, 0);
  await insert('guarding', null, 1);
  await insert('byhand', null, 0);
  for (const test of ['watched', 'guarding', 'byhand']) await run(test, 1, 'failed');
  expect(await found('delivery-tests')).toEqual(['attention delivery-test-fails', 'error delivery-test-fails']);
  await run('watched', 2, 'passed');
  await run('watched', 3, 'failed');
  await run('watched', 4, 'failed');
  await run('watched', 5, 'stopped');
  const parts = await examineParts(house.ctx, ['delivery-tests']);
  expect(parts.get('delivery-tests')?.find(({ subject }) => subject.id === 'watched')).toMatchObject({
    since: at + 3,
    problem: expect.stringContaining('Nothing came in'),
  });
  await run('guarding', 2, 'passed');
  await run('watched', 6, 'passed');
  expect(await found('delivery-tests')).toEqual([]);
});

test('a broadcast that held itself, and none that somebody holds', async () => {
  const hold = (id: string, code: string) =>
    set(
      `INSERT INTO broadcasts (id, name, state, version, definition, created_at, created_by, created_by_name, changed_at, phase, starts_itself, held)
       VALUES (:id, 'Autumn', 'held', 1, '{}', 0, '', '', 0, 'all', 0, :held)`,
      {
        id,
        held: JSON.stringify({ code, problem: 'Every third fails.', remedy: 'Look at them.', at: 5, underWay: 0 }),
      },
    );
  await hold('brd_1', 'by-hand');
  expect(await found('held-broadcasts')).toEqual([]);
  await hold('brd_2', 'failures');
  const [finding] = (await examineParts(house.ctx, ['held-broadcasts'])).get('held-broadcasts') ?? [];
  expect(finding).toMatchObject({
    since: 5,
    problem: '“Autumn” held itself: Every third fails.',
    remedy: 'Look at them.',
  });
});
