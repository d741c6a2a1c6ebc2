/** When an installation and its outside have nothing more to do with what was begun. */
import type { Installation } from './processes';
import { type Look, untilAtRest } from './until';

/**
 * Waits until every queue is empty and nothing is on its way outside, or until what is left
 * waits for something that does not come: an app that is down, an engine that is not there.
 */
export function settle(house: Installation): Promise<void> {
  return untilAtRest(() => lookAt(house));
}

async function lookAt({ w, bench }: Installation): Promise<Look> {
  const before = await bench.underWay();
  const [row] = await w.store.select<{ open: number; done: string }>(
    `SELECT (SELECT count(*) FROM inbound_requests WHERE state = 'stored')
          + (SELECT count(*) FROM outbox WHERE state = 'leased' OR (state = 'due' AND due_at <= :now))
          + (SELECT count(*) FROM webhook_deliveries WHERE state = 'leased' OR (state = 'due' AND due_at <= :now))
          + (SELECT count(*) FROM runs WHERE ended_at IS NULL
               AND (lease_owner IS NOT NULL OR (state IN ('due', 'waiting') AND due_at <= :now)))
          + (SELECT count(*) FROM feeds WHERE wanted_at > coalesce(synced_at, 0)) AS open,
            (SELECT coalesce(max(id), 0) FROM message_events) || ' ' || (SELECT coalesce(max(id), '') FROM exchanges)
          || ' ' || (SELECT coalesce(max(id), '') FROM inbound_requests) AS done`,
    { now: w.now() },
  );
  const after = await bench.underWay();
  return { open: before + (row?.open ?? 0) + after, done: row?.done ?? '' };
}
