/** Webhooks to apps: claimed in order per conversation, signed, posted, retried with growing delays. */
import type { Exchange } from '../../../connectors/connector';
import { OutboundError } from '../../../connectors/http/outbound';
import type { CauseCode } from '../../../core/delivery/causes';
import { type CircuitBreaker, closedBreaker, roomIn } from '../../../core/pacing/circuitBreaker';
import { causeOfAppAnswer } from '../../../core/signing/appAnswer';
import { parseRetryAfter } from '../../../core/signing/retryPlan';
import { signWebhook } from '../../../core/signing/standardWebhooks';
import type { WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { isStoreTrouble } from '../../../store/trouble';
import { type AppContext, noteChanges, recordAudit, SYSTEM } from '../../context';
import { ABANDONED_AFTER } from '../../workQueue';
import type { DeliveryReport } from './deliveryJobs';
import { type DeliveryJob, MOST_PER_APP } from './deliveryJobs';
import { secretsOf } from './subscriptions';

/** Standard Webhooks recommends 15 to 30 seconds. */
const TIMEOUT = 15_000;

/** Claimed and unsent for an app that takes everything, as each claim costs a commit; for one in trouble no more than may leave now. */
const MOST_WAITING = 600;

/** When so few wait, more are claimed, so that some are always there to send. */
export const FEW_WAITING = MOST_WAITING / 2;

/** Sent and unnoted: beyond that, noting is what is behind. */
const MOST_UNNOTED = 4 * MOST_WAITING;

/**
 * Claims due deliveries: of each subscription as many as its circuit breaker lets through, and never
 * two of one conversation at once, as the earlier must arrive first. `waiting` says how many
 * of a subscription were claimed before and not sent yet. A subscription that cannot be read is
 * paused and keeps its events; the others go on.
 */
export async function claimDeliveries(
  ctx: AppContext,
  owner: string,
  waiting: (subscriptionId: string) => number,
): Promise<DeliveryJob[]> {
  const standing = `SELECT id FROM webhook_subscriptions WHERE disabled_at IS NULL AND paused_at IS NULL`;
  const ids = (await ctx.store.select<{ id: string }>(standing)).map(({ id }) => id);
  try {
    return await claimFor(ctx, owner, ids, waiting);
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
  }
  const jobs: DeliveryJob[] = [];
  for (const id of ids)
    try {
      jobs.push(...(await claimFor(ctx, owner, [id], waiting)));
    } catch (error) {
      if (isStoreTrouble(error)) throw error;
      ctx.log.error({ err: error, subscription: id }, 'a subscription could not be read and is paused');
      await pauseUnreadable(ctx, id);
    }
  return jobs;
}

function claimFor(
  ctx: AppContext,
  owner: string,
  ids: readonly string[],
  waiting: (subscriptionId: string) => number,
): Promise<DeliveryJob[]> {
  return ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      const jobs: DeliveryJob[] = [];
      const subscriptions = (await unit.subscriptions.allBy('id', ids)).filter(
        ({ disabled_at, paused_at }) => disabled_at === null && paused_at === null,
      );
      const underWay = await leasedBySubscription(unit);
      for (const subscription of subscriptions) {
        const breaker = subscription.breaker ?? closedBreaker(MOST_PER_APP);
        const room = claimable(breaker, at, underWay.get(subscription.id) ?? 0, waiting(subscription.id));
        if (room <= 0) continue;
        const rows = await unit.select<WebhookDeliveryRow>(
          `SELECT d.* FROM webhook_deliveries d
            WHERE d.subscription_id = :subscription AND d.state = 'due' AND d.due_at <= :at AND NOT EXISTS (
              SELECT 1 FROM webhook_deliveries e WHERE e.subscription_id = d.subscription_id AND e.ordering_key = d.ordering_key
                 AND e.state IN ('due', 'leased') AND e.id < d.id)
            ORDER BY d.due_at, d.id LIMIT :room`,
          { subscription: subscription.id, at, room },
        );
        if (rows.length === 0) continue;
        const secrets = secretsOf(ctx, subscription);
        jobs.push(
          ...rows.map((row) => ({
            secrets,
            delivery: { ...row, attempts: row.attempts + 1, first_attempt_at: row.first_attempt_at ?? at },
            subscription,
          })),
        );
      }
      if (jobs.length === 0) return jobs;
      await unit.execute(
        `UPDATE webhook_deliveries SET state = 'leased', lease_owner = :owner, leased_at = :at, attempts = attempts + 1,
                first_attempt_at = coalesce(first_attempt_at, :at)
        WHERE id IN (:ids)`,
        { owner, at, ids: jobs.map(({ delivery }) => delivery.id) },
      );
      return jobs;
    },
    { durable: false },
  );
}

/** Its events are kept until somebody has fixed it and resumes it. */
function pauseUnreadable(ctx: AppContext, id: string): Promise<void> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    await unit.execute(
      `UPDATE webhook_subscriptions SET paused_at = :at, paused_why = 'unreadable' WHERE id = :id AND paused_at IS NULL`,
      { id, at },
    );
    const [row] = await unit.select<{ app_id: string; url: string }>(
      `SELECT app_id, url FROM webhook_subscriptions WHERE id = :id`,
      { id },
    );
    if (!row) return;
    const summary = `Paused events to ${row.url}: its settings or its secret cannot be read. They are kept.`;
    await recordAudit(unit, SYSTEM, at, { action: 'subscription.paused', subject: id, summary });
    await noteChanges(unit, at, [['app', row.app_id]]);
  });
}

/** Gives back what is leased and worked on by nobody: an attempt that could not be noted. `held`: by id. Returns how many. */
export function releaseLost(ctx: AppContext, held: ReadonlySet<string>): Promise<number> {
  return ctx.store.write((unit) =>
    unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', lease_owner = NULL, leased_at = NULL
        WHERE state = 'leased' AND coalesce(leased_at, 0) < :before AND id NOT IN (:held)`,
      { before: ctx.now() - ABANDONED_AFTER, held: [...held] },
    ),
  );
}

function claimable(breaker: CircuitBreaker, now: number, claimed: number, waiting: number): number {
  const atEase = breaker.failures === 0 && breaker.atOnce === MOST_PER_APP;
  if (!atEase) return roomIn(breaker, now, claimed);
  return waiting <= FEW_WAITING && claimed - waiting <= MOST_UNNOTED ? MOST_WAITING - waiting : 0;
}

/** Of these subscriptions, as they were claimed for, those that have been paused, ended, sent elsewhere or resealed since. */
export async function changedSince(
  ctx: AppContext,
  claimed: readonly WebhookSubscriptionRow[],
): Promise<WebhookSubscriptionRow[]> {
  const names = ['id', 'url', 'sealed_secrets', 'paused_at', 'disabled_at'] as const;
  const ids = claimed.map(({ id }) => id);
  const now = new Map((await ctx.store.subscriptions.allBy('id', ids, names)).map((row) => [row.id, row]));
  return claimed.filter((row) => names.some((name) => now.get(row.id)?.[name] !== row[name]));
}

/** Gives claims back that were not used: the app has come into trouble, or is to be called otherwise. */
export async function releaseDeliveries(ctx: AppContext, jobs: readonly DeliveryJob[]): Promise<void> {
  if (jobs.length === 0) return;
  await ctx.store.write(
    (unit) =>
      unit.execute(
        `UPDATE webhook_deliveries SET state = 'due', lease_owner = NULL, leased_at = NULL, attempts = attempts - 1,
                first_attempt_at = CASE WHEN attempts = 1 THEN NULL ELSE first_attempt_at END WHERE id IN (:ids)`,
        { ids: jobs.map(({ delivery }) => delivery.id) },
      ),
    { durable: false },
  );
}

async function leasedBySubscription(unit: Unit): Promise<Map<string, number>> {
  const rows = await unit.select<{ id: string; n: number }>(
    `SELECT subscription_id AS id, count(*) AS n FROM webhook_deliveries WHERE state = 'leased' GROUP BY subscription_id`,
  );
  return new Map(rows.map(({ id, n }) => [id, n]));
}

/** When something may be due next that no circuit breaker holds back. */
export async function nextDeliveryDueAt(ctx: AppContext): Promise<number | undefined> {
  const rows = await ctx.store.select<{ due_at: number | null; retry_at: number | null }>(
    `SELECT (SELECT min(due_at) FROM webhook_deliveries d WHERE d.subscription_id = s.id AND d.state = 'due') AS due_at,
            s.breaker->>'$.open.retryAt' AS retry_at
       FROM webhook_subscriptions s WHERE s.disabled_at IS NULL AND s.paused_at IS NULL`,
  );
  const times = rows.flatMap(({ due_at, retry_at }) => (due_at === null ? [] : [Math.max(due_at, retry_at ?? 0)]));
  return times.length > 0 ? Math.min(...times) : undefined;
}

/** Posts one delivery. The id is the event's and stays the same over all attempts, so that an app can tell repeats. */
export async function deliver(ctx: AppContext, job: DeliveryJob): Promise<DeliveryReport> {
  const { delivery, subscription, secrets } = job;
  const began = ctx.now();
  const since = ctx.clock.elapsed();
  const headers = {
    'content-type': 'application/cloudevents+json; charset=utf-8',
    'user-agent': 'Windgap',
    ...signWebhook(delivery.event_id, began, delivery.body, secrets),
  };
  const request = { method: 'POST', url: subscription.url, headers, body: delivery.body };
  // The body is kept with the delivery, once for all attempts.
  const exchange: Exchange = { at: began, elapsedMs: 0, request: { ...request, body: null }, response: null };
  try {
    const response = await ctx.http({ ...request, timeoutMs: TIMEOUT });
    const at = ctx.now();
    exchange.elapsedMs = Math.round(ctx.clock.elapsed() - since);
    exchange.response = { ...response, body: response.body.slice(0, 4000) };
    const retryAfter = parseRetryAfter(response.headers['retry-after'], at);
    return { job, exchange, cause: causeOfAppAnswer(response, at), retryAfter, at };
  } catch (error) {
    if (!(error instanceof OutboundError)) throw error;
    const at = ctx.now();
    exchange.elapsedMs = Math.round(ctx.clock.elapsed() - since);
    const causes: Record<OutboundError['kind'], CauseCode> = {
      unreachable: 'app-unreachable',
      timeout: 'app-timeout',
      'not-allowed': 'address-not-allowed',
      'too-large': 'app-error',
    };
    return { job, exchange, cause: causes[error.kind], at };
  }
}

/** At start: claims of an engine that is gone. An app may see one of these twice, with the same webhook-id. */
export function recoverDeliveries(ctx: AppContext): Promise<number> {
  return ctx.store.write((unit) =>
    unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', due_at = :at, lease_owner = NULL, leased_at = NULL WHERE state = 'leased'`,
      { at: ctx.now() },
    ),
  );
}
