/**
 * The real processes under mixed traffic while things go wrong at random: afterwards nothing is lost, nothing is doubled
 * where references are honoured, and nothing is stuck. Every run of the tests goes through each disturbance once, by a fixed
 * seed; `npm run chaos -- --minutes 30 --seed 7` goes on for as long as it is told.
 */
import { afterEach, expect, test } from 'vitest';
import { settle } from '../harness/rest';
import { checkAll } from './check';
import { type Damage, DISTURBANCES, heal } from './disturbances';
import { randomOf } from './random';
import { startTraffic } from './traffic';
import { startWorld, type World } from './world';

const MINUTES = Number(process.env.WINDGAP_CHAOS_MINUTES ?? 0);
const SEED = Number(process.env.WINDGAP_CHAOS_SEED ?? 1);
/** A small file system of its own, made by whoever starts a long run and may mount one. */
const SMALL_DISK = process.env.WINDGAP_CHAOS_DISK;
/** More would be traffic for its own sake: what matters is what it meets. */
const PER_SECOND = MINUTES > 0 ? 20 : 10;

let world: World | undefined;
afterEach(() => world?.stop());

test('nothing is lost, doubled or stuck, whatever goes wrong meanwhile', async () => {
  const random = randomOf(SEED);
  world = await startWorld(SMALL_DISK);
  const possible = DISTURBANCES.filter(({ needsSmallDisk }) => !needsSmallDisk || SMALL_DISK);
  const damage: Damage = { rows: [] };
  const met = new Map<string, number>();
  let aside = 0;
  const traffic = startTraffic(world, random, PER_SECOND);
  const began = performance.now();
  const mark = (what: string) =>
    process.env.WINDGAP_CHAOS_LOG && console.log(`${Math.round((performance.now() - began) / 100) / 10} s: ${what}`);
  const over = () => performance.now() - began > MINUTES * 60_000;
  const once = shuffled(possible, random);
  for (let n = 0; n < once.length || !over(); n++) {
    const disturbance = once[n] ?? random.pick(possible);
    met.set(disturbance.name, (met.get(disturbance.name) ?? 0) + 1);
    mark(disturbance.name);
    await disturbance.happen(world, random, damage);
    // Now and then it is left alone for a moment, and somebody looks after what was set aside.
    if (n % 10 === 9) aside += await heal(world, damage);
  }
  aside += await heal(world, damage);
  mark('healed');
  await traffic.stop();
  mark('no more traffic');
  await comesToRest(world, damage, (n) => {
    aside += n;
  });

  mark('at rest');
  const verdict = await checkAll(world, traffic.ledger);
  console.log(
    `seed ${SEED}, ${Math.round((performance.now() - began) / 1000)} s: ${verdict.ordered} ordered, ${verdict.typed} typed, ${aside} set aside and processed again, ${verdict.uncertain} over the trunk uncertain, ${verdict.brought} brought again by the carrier, ${verdict.unreached} given up by the provider as nobody listened`,
  );
  console.log([...met].map(([name, n]) => `${name}: ${n}`).join('; '));
  expect(traffic.ledger.refused).toEqual([]);
  expect({ lost: verdict.lost, doubled: verdict.doubled, stuck: verdict.stuck }).toEqual({
    lost: [],
    doubled: [],
    stuck: [],
  });
  expect(verdict.ordered).toBeGreaterThan(20);
});

/** What waits for its time gets it; what is set aside on the way is decided about. */
async function comesToRest(world: World, damage: Damage, decided: (n: number) => void): Promise<void> {
  for (let n = 0; n < 60; n++) {
    await settle(world.house).catch(async (error) => {
      console.log(await whatIsOpen(world));
      throw error;
    });
    decided(await heal(world, damage));
    const [row] = await world.house.ctx.store.select<{ open: number }>(
      `SELECT (SELECT count(*) FROM outbox WHERE state IN ('due', 'leased')) + (SELECT count(*) FROM runs WHERE state IN ('due', 'waiting'))
            + (SELECT count(*) FROM webhook_deliveries WHERE state IN ('due', 'leased'))
            + (SELECT count(*) FROM inbound_requests WHERE state = 'stored')
            + (SELECT count(*) FROM messages WHERE state IN ('queued', 'sending')) AS open`,
    );
    if (row?.open === 0) return;
    await world.house.bench.moveClock(60_000);
  }
}

function shuffled<Item>(items: readonly Item[], random: { between(from: number, to: number): number }): Item[] {
  const order = [...items];
  for (let n = order.length - 1; n > 0; n--) {
    const other = random.between(0, n);
    [order[n], order[other]] = [order[other] as Item, order[n] as Item];
  }
  return order;
}

/** For whoever has to find out why it does not come to rest. */
async function whatIsOpen({ house: { ctx } }: World): Promise<string> {
  const rows = await ctx.store.select(
    `SELECT 'outbox' AS what, state, count(*) AS n, min(due_at) AS due, max(attempts) AS attempts FROM outbox GROUP BY state
     UNION ALL SELECT 'runs', state, count(*), min(due_at), max(attempts) FROM runs WHERE state NOT IN ('done', 'cancelled') GROUP BY state
     UNION ALL SELECT 'events', state, count(*), min(due_at), max(attempts) FROM webhook_deliveries WHERE state <> 'delivered' GROUP BY state
     UNION ALL SELECT 'inbound', state, count(*), min(received_at), 0 FROM inbound_requests WHERE state <> 'done' GROUP BY state
     UNION ALL SELECT 'exchanges', purpose || ' ' || coalesce(cause, ''), count(*), max(at), 0 FROM exchanges GROUP BY purpose, cause
     UNION ALL SELECT 'failed', queue || ' ' || reason, failures, last_at, 0 FROM failed_work WHERE ended_at IS NULL
     UNION ALL SELECT 'trunk', state || ' ' || coalesce(cause, '') || ' ' || coalesce(said, ''), unanswered, since, reconnects FROM trunk_states`,
  );
  return `now ${ctx.now()}\n${rows.map((row) => JSON.stringify(row)).join('\n')}`;
}
