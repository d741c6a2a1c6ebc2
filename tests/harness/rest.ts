/** When an installation and its outside have nothing more to do with what was begun. */
import { nextDeliveryDueAt } from '../../src/operations/apps/webhooks/deliveries';
import type { Installation } from './processes';
import { type Look, untilAtRest } from './until';

/**
 * Waits until every queue is empty and nothing is on its way outside, or until what is left
 * waits for something that does not come: an engine that is not there.
 */
export function settle(house: Installation): Promise<void> {
  return untilAtRest(() => lookAt(house));
}

/**
 * Waits for what only time brings, without spending it: whenever everything is at rest, the
 * clock is moved on. What is under way is never hurried, however slow the machine.
 */
export async function passTime<T>(house: Installation, awaited: Promise<T>, stepMs = 2000): Promise<T> {
  let over = false;
  const ended = awaited.finally(() => {
    over = true;
  });
  // Handled by whoever gets `ended`; until then there is nobody.
  ended.catch(() => undefined);
  while (!over) {
    await settle(house);
    if (!over) await house.bench.moveClock(stepMs);
  }
  return ended;
}

/** Texts for a trunk that is down wait for it. */
const ON_ITS_WAY = `state = 'leased' OR (state = 'due' AND due_at <= :now AND NOT EXISTS (
  SELECT 1 FROM channels c JOIN trunk_states t ON t.account_id = c.account_id
   WHERE c.id = outbox.channel_id AND t.state IN ('waiting', 'refused')))`;

async function lookAt({ ctx, bench }: Installation): Promise<Look> {
  const before = await bench.underWay();
  const now = ctx.now();
  const webhookDueAt = await nextDeliveryDueAt(ctx);
  const [row] = await ctx.store.select<{ open: number; done: string }>(
    `SELECT (SELECT count(*) FROM inbound_requests WHERE state = 'stored')
          + (SELECT count(*) FROM outbox WHERE ${ON_ITS_WAY})
          + (SELECT count(*) FROM fallbacks WHERE due_at <= :now)
          + (SELECT count(*) FROM webhook_deliveries WHERE state = 'leased')
          + (SELECT count(*) FROM runs WHERE ended_at IS NULL
               AND (lease_owner IS NOT NULL OR (state IN ('due', 'waiting') AND due_at <= :now)))
          + (SELECT count(*) FROM feeds WHERE wanted_at > coalesce(synced_at, 0)) AS open,
            (SELECT coalesce(max(id), 0) FROM message_events) || ' ' || (SELECT coalesce(max(id), '') FROM exchanges)
          || ' ' || (SELECT coalesce(max(id), '') FROM inbound_requests) AS done`,
    { now },
  );
  const after = await bench.underWay();
  const webhooks = webhookDueAt !== undefined && webhookDueAt <= now ? 1 : 0;
  return { open: before + (row?.open ?? 0) + webhooks + after, done: row?.done ?? '' };
}
