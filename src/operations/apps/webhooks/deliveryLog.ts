/** The deliveries of a subscription as people see them, and sending them again. */
import type { WebhookDeliveryRow } from '../../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireAccess,
  requireReached,
} from '../../context';
import { requireWebhooks, standing } from './subscriptions';

/** Why a delivery `d` is not done: its own last attempt, or that of the one it waits behind. */
export const CAUSE_OF_DELIVERY = `coalesce(d.cause, (SELECT ahead.cause FROM webhook_deliveries ahead
  WHERE ahead.subscription_id = d.subscription_id AND ahead.state IN ('due', 'leased') AND ahead.cause IS NOT NULL
  ORDER BY ahead.id LIMIT 1))`;

export interface DeliveryPage {
  deliveries: WebhookDeliveryRow[];
  /** Give as `before` for the next page. */
  next?: string;
}

/** The log of one subscription, newest first. */
export async function listDeliveries(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
  { state, limit, before }: { state?: WebhookDeliveryRow['state']; limit: number; before?: string },
): Promise<DeliveryPage> {
  requireAccess(actor, 'viewer', 'webhooks:read');
  const subscription = await ctx.store.subscriptions.one({ id: subscriptionId });
  const { app_id } = found(
    actor.kind === 'app' && subscription?.app_id !== actor.id ? undefined : subscription,
    'subscription',
  );
  if (actor.kind !== 'app') await requireReached(ctx.store, actor, 'app', app_id);
  const rows = await ctx.store.select<WebhookDeliveryRow>(
    `SELECT * FROM webhook_deliveries WHERE subscription_id = :subscriptionId
        AND (:state IS NULL OR state = :state) AND (:before IS NULL OR id < :before) ORDER BY id DESC LIMIT :most`,
    { subscriptionId, state: state ?? null, before: before ?? null, most: limit + 1 },
  );
  const deliveries = rows.slice(0, limit);
  return { deliveries, next: rows.length > limit ? deliveries.at(-1)?.id : undefined };
}

/** What is due again: a fresh start for its attempts. */
const AGAIN = { state: 'due', attempts: 0, first_attempt_at: null, delivered_at: null, cause: null } as const;

/** Puts a delivery into the queue again, at once. */
export async function redeliver(ctx: AppContext, actor: Actor, deliveryId: string): Promise<void> {
  requireWebhooks(actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const delivery = found(await unit.deliveries.one({ id: deliveryId }), 'delivery');
    await standing(unit, actor, delivery.subscription_id);
    await unit.deliveries.change({ id: deliveryId, state: ['due', 'delivered', 'given-up'] }, { ...AGAIN, due_at: at });
    await recordAudit(unit, actor, at, {
      action: 'delivery.repeated',
      subject: deliveryId,
      summary: 'Sent a webhook again',
    });
    await noteChanges(unit, at, [['delivery', delivery.subscription_id]]);
  });
  ctx.engineWakeUp.ring('webhooks');
}

export interface ReplayRange {
  /** Epoch milliseconds; events made in [from, to). */
  from: number;
  to: number;
  /** Only those the app never took, or also those it did. */
  which: 'not-delivered' | 'all';
}

/** More than this is asked for in several ranges. */
export const MOST_REPLAYED = 20_000;

/** Sends a range of a subscription's events again, in their order. Returns how many. */
export async function redeliverRange(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
  { from, to, which }: ReplayRange,
): Promise<number> {
  requireWebhooks(actor);
  if (!(from < to)) throw invalidText('to', 'The range ends before it begins.', 'Give an end after the start.');
  const at = ctx.now();
  const states = which === 'all' ? ['delivered', 'given-up'] : ['given-up'];
  const range = { subscription: subscriptionId, from, to, states };
  const replayed = await ctx.store.write(async (unit) => {
    await standing(unit, actor, subscriptionId);
    const where = 'subscription_id = :subscription AND created_at >= :from AND created_at < :to AND state IN (:states)';
    const [{ n = 0 } = {}] = await unit.select<{ n: number }>(
      `SELECT count(*) AS n FROM webhook_deliveries WHERE ${where}`,
      range,
    );
    if (n > MOST_REPLAYED)
      throw invalidText('from', `The range holds ${n} events.`, `Take at most ${MOST_REPLAYED} at once.`);
    await unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', due_at = :at, attempts = 0, first_attempt_at = NULL, delivered_at = NULL, cause = NULL WHERE ${where}`,
      { ...range, at },
    );
    await recordAudit(unit, actor, at, {
      action: 'delivery.repeated',
      subject: subscriptionId,
      summary: `Sent ${n} webhooks again`,
    });
    await noteChanges(unit, at, [['delivery', subscriptionId]]);
    return n;
  });
  ctx.engineWakeUp.ring('webhooks');
  return replayed;
}
