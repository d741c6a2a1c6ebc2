/** What goes wrong: processes die and freeze, the disk fills, the lock is held, rows are damaged, the outside fails, time jumps. */
import { appendFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { resumeSubscription } from '../../src/operations/apps/webhooks/subscriptions';
import { SYSTEM } from '../../src/operations/context/actor';
import { decideSetAside } from '../../src/operations/setAside/decide';
import { viewSetAside } from '../../src/operations/setAside/pages';
import { killHard } from '../harness/processes';
import { until } from '../harness/until';
import { lasting } from './lasting';
import type { Random } from './random';
import type { World } from './world';

export interface Disturbance {
  name: string;
  /** Does it, lets it last, and ends it. */
  happen(world: World, random: Random, damage: Damage): Promise<void>;
  /** Only where the data folder is a small file system of its own. */
  needsSmallDisk?: boolean;
}

/** What was damaged in the store, with what it was before. */
export interface Damage {
  rows: { table: string; key: string; id: string; column: string; before: string | null }[];
}

const HALF = '{"half';

export const DISTURBANCES: readonly Disturbance[] = [
  {
    name: 'the engine is killed',
    async happen({ house }, random) {
      await killHard(house.engine);
      await lasting(random.between(0, 400));
      await house.startEngine();
    },
  },
  {
    name: 'the engine is killed as soon as it starts',
    async happen({ house }, random) {
      for (let n = random.between(2, 4); n > 0; n--) {
        await killHard(house.engine);
        await house.startEngine();
        await lasting(random.between(0, 1500));
      }
    },
  },
  {
    name: 'the web process is killed',
    async happen({ house }, random) {
      await killHard(house.web);
      await lasting(random.between(0, 500));
      await house.startWeb();
    },
  },
  {
    name: 'both are killed at once',
    async happen({ house }) {
      await Promise.all([killHard(house.web), killHard(house.engine)]);
      await house.startEngine();
      await house.startWeb();
    },
  },
  {
    name: 'the engine freezes',
    async happen({ house }, random) {
      const { engine } = house;
      engine?.kill('SIGSTOP');
      await lasting(random.between(500, 3000));
      engine?.kill('SIGCONT');
    },
  },
  {
    name: 'somebody holds the write lock',
    happen: ({ house }, random) => house.ctx.store.write(() => lasting(random.between(500, 4000))),
  },
  {
    name: 'the disk is full',
    needsSmallDisk: true,
    async happen({ house }, random) {
      const { dataFolder } = house.ctx.config;
      const filler = join(dataFolder, 'filler');
      const some = Buffer.alloc(1024 * 1024);
      try {
        for (;;) appendFileSync(filler, some);
      } catch {
        // Full is what it was to become.
      }
      await lasting(random.between(500, 3000));
      rmSync(filler, { force: true });
    },
  },
  {
    name: 'a waiting row is damaged',
    async happen(world, random, damage) {
      const { house } = world;
      // What waits is worked on within milliseconds: it waits while the engine is away.
      await killHard(house.engine);
      await lasting(600);
      const places = [
        { table: 'inbound_requests', key: 'id', column: 'headers', where: `state = 'stored'` },
        { table: 'runs', key: 'id', column: 'steps', where: `state IN ('due', 'waiting')` },
        {
          table: 'messages',
          key: 'id',
          column: 'media',
          where: `id IN (SELECT message_id FROM outbox WHERE state = 'due')`,
        },
      ];
      const before = damage.rows.length;
      for (const place of places) await breakOne(world, place, random, damage);
      await house.startEngine();
      const broken = damage.rows.slice(before).map(({ id }) => id);
      // Those whose time has come are set aside; one that waits for a later attempt is repaired before it is looked at.
      for (let looks = 0; looks < 100; looks++) {
        const aside = await house.ctx.store.failedWork.allBy('item_id', broken);
        if (broken.every((id) => aside.some(({ item_id, aside_at }) => item_id === id && aside_at !== null))) return;
        await lasting(100);
      }
    },
  },
  {
    name: 'a row of the set-up is damaged',
    async happen(world, random, damage) {
      const place = random.pick([
        { table: 'webhook_subscriptions', key: 'id', column: 'filter', where: `id = '${world.subscriptionId}'` },
        { table: 'provider_accounts', key: 'id', column: 'facts', where: `id = '${world.trunk.accountId}'` },
      ]);
      await breakOne(world, place, random, damage);
      await lasting(random.between(300, 1500));
      await repair(world, damage);
    },
  },
  {
    name: 'the app is slow, broken or gone',
    async happen({ app }, random) {
      app.mood = random.pick(['frozen', 'broken', 'refusing'] as const);
      await lasting(random.between(500, 4000));
      app.mood = 'well';
    },
  },
  {
    name: 'the provider fails',
    async happen({ house }, random) {
      const fault = random.pick([
        { answers500: true },
        { down: true },
        { slowAnswers: 1500 },
        { postsTwice: true },
        { reportsBeforeAnswer: true },
        { reportsReversed: true },
        { throttlesAll: true },
      ]);
      await allWell(() => house.bench.faults({ brackwater: fault as never }));
      await lasting(random.between(300, 2500));
      const over = Object.fromEntries(Object.keys(fault).map((name) => [name, name === 'slowAnswers' ? 0 : false]));
      await allWell(() => house.bench.faults({ brackwater: over }));
    },
  },
  {
    name: 'the carrier fails',
    async happen({ house }, random) {
      const fault = random.pick(['down', 'silent', 'throttles', 'cutsBeforeAnswer', 'halfDead']);
      await allWell(() => house.bench.faults({ ostrel: { [fault]: true } }));
      await lasting(random.between(500, 5000));
      await allWell(() => house.bench.faults({ ostrel: { [fault]: false } }));
    },
  },
  {
    name: 'time jumps',
    happen: ({ house }, random) => allWell(() => house.bench.moveClock(random.between(1, 60) * 1000)),
  },
];

async function breakOne(
  { house: { ctx } }: World,
  { table, key, column, where }: { table: string; key: string; column: string; where: string },
  random: Random,
  damage: Damage,
): Promise<void> {
  const rows = await ctx.store.select<{ id: string; before: string | null }>(
    `SELECT ${key} AS id, CAST(${column} AS TEXT) AS before FROM ${table} WHERE ${where} LIMIT 50`,
  );
  if (rows.length === 0) return;
  const { id, before } = random.pick(rows);
  if (before === HALF) return;
  await ctx.store.write((unit) =>
    unit.execute(`UPDATE ${table} SET ${column} = :half WHERE ${key} = :id`, { half: HALF, id }),
  );
  damage.rows.push({ table, key, id, column, before });
}

/** Puts damaged rows right, as a person would from a backup. */
export async function repair({ house: { ctx } }: World, damage: Damage): Promise<void> {
  for (const { table, key, id, column, before } of damage.rows)
    await ctx.store.write((unit) =>
      unit.execute(`UPDATE ${table} SET ${column} = :before WHERE ${key} = :id`, { before, id }),
    );
  damage.rows.length = 0;
}

/** The bench is asked again where a kept connection was closed under the request. */
async function allWell(ask: () => Promise<void>): Promise<void> {
  for (let tries = 0; ; tries++)
    try {
      return await ask();
    } catch (error) {
      if (tries === 5) throw error;
      await lasting(200);
    }
}

/** Ends everything that was done to the world, and decides about what was set aside. Returns how much that was. */
export async function heal(world: World, damage: Damage): Promise<number> {
  const { house, app } = world;
  const { ctx, bench } = house;
  app.mood = 'well';
  await allWell(() =>
    bench.faults({
      brackwater: {
        answers500: false,
        down: false,
        slowAnswers: 0,
        postsTwice: false,
        reportsBeforeAnswer: false,
        reportsReversed: false,
        throttlesAll: false,
      },
      ostrel: { down: false, silent: false, throttles: false, cutsBeforeAnswer: false, halfDead: false },
    }),
  );
  await repair(world, damage);
  if (!house.engine || house.engine.exitCode !== null || house.engine.signalCode !== null) await house.startEngine();
  if (!house.web || house.web.exitCode !== null || house.web.signalCode !== null) await house.startWeb();
  await until('the web answers', async () => (await fetch(`${house.origin}/health`).catch(() => undefined))?.ok);
  const paused = await ctx.store.subscriptions.all({ paused_why: 'unreadable' });
  for (const { id } of paused) await resumeSubscription(ctx, SYSTEM, id);
  const aside = await viewSetAside(ctx, SYSTEM, false);
  if (aside.length > 0)
    await decideSetAside(
      ctx,
      SYSTEM,
      aside.map(({ key }) => key),
      'process again',
    );
  return aside.length;
}
