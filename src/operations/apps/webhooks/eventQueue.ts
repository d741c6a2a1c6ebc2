/** Events that wait to be posted to apps, as a queue of the engine. */
import type { WorkQueue } from '../../workQueue';

export const eventQueue: WorkQueue = {
  name: 'events',
  item: 'an event for an app',
  label: 'Events for apps',
  work: 'webhooks',
  topic: 'delivery',
  patience: 3,
  async waiting(ctx) {
    // What waits for an app that is paused or in trouble waits for the app, and not for the engine.
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      `SELECT count(*) AS items, min(d.due_at) AS since FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
        WHERE d.state = 'due' AND d.due_at <= :now AND s.disabled_at IS NULL AND s.paused_at IS NULL AND s.breaker IS NULL`,
      { now: ctx.now() },
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  async view(ctx, ids) {
    const rows = await ctx.store.select<{ id: string; type: string; app_id: string; app: string }>(
      `SELECT d.id, d.event_type AS type, a.id AS app_id, a.name AS app FROM webhook_deliveries d
         JOIN webhook_subscriptions s ON s.id = d.subscription_id JOIN apps a ON a.id = s.app_id WHERE d.id IN (:ids)`,
      { ids: [...ids] },
    );
    return rows.map(({ id, type, app_id, app }) => ({
      id,
      title: `Event ${type}`,
      href: `/apps/${app_id}`,
      subject: { name: app, href: `/apps/${app_id}` },
    }));
  },
  tryAgain: (unit, id, due) =>
    unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', due_at = :due, lease_owner = NULL, leased_at = NULL WHERE id = :id AND state IN ('due', 'leased')`,
      { id, due },
    ),
  setAside: (unit, id) =>
    unit.execute(
      `UPDATE webhook_deliveries SET state = 'aside', lease_owner = NULL, leased_at = NULL WHERE id = :id AND state IN ('due', 'leased')`,
      { id },
    ),
  async letGo(unit, id, at) {
    const changed = await unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', due_at = :at WHERE id = :id AND state = 'aside'`,
      { id, at },
    );
    return changed > 0;
  },
  async drop(unit, id) {
    const changed = await unit.execute(
      `UPDATE webhook_deliveries SET state = 'given-up', cause = 'dropped-by-hand' WHERE id = :id AND state = 'aside'`,
      { id },
    );
    return changed > 0;
  },
};
