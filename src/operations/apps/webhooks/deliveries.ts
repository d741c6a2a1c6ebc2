/** Webhooks to apps: claimed in order per conversation, signed, posted, retried with growing delays. */

import type { Exchange } from '../../../connectors/connector';
import { OutboundError } from '../../../connectors/http/outbound';
import type { CauseCode } from '../../../core/delivery/causes';
import { groupBy } from '../../../core/groupBy';
import { breakerAfter, type CircuitBreaker, closedBreaker, roomIn } from '../../../core/pacing/circuitBreaker';
import { causeOfAppAnswer } from '../../../core/signing/appAnswer';
import { nextAttemptAt, parseRetryAfter, WEBHOOK_RETRIES } from '../../../core/signing/retryPlan';
import { signWebhook } from '../../../core/signing/standardWebhooks';
import { createBatcher } from '../../../store/batcher';
import type { WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  exchangeRow,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireAccess,
  SYSTEM,
} from '../../context';
import { tellAdministrators } from '../../people';
import { fault, recordFacts, type SubjectFact } from '../../proofs';
import { requireWebhooks, secretsOf, standing } from './subscriptions';

/** Standard Webhooks recommends 15 to 30 seconds. */
const TIMEOUT = 15_000;

/** Why a delivery `d` is not done: its own last attempt, or that of the one it waits behind. */
export const CAUSE_OF_DELIVERY = `coalesce(d.cause, (SELECT ahead.cause FROM webhook_deliveries ahead
  WHERE ahead.subscription_id = d.subscription_id AND ahead.state IN ('due', 'leased') AND ahead.cause IS NOT NULL
  ORDER BY ahead.id LIMIT 1))`;

export interface DeliveryJob {
  delivery: WebhookDeliveryRow;
  subscription: WebhookSubscriptionRow;
  /** What signs it. */
  secrets: readonly string[];
}

export interface DeliveryReport {
  job: DeliveryJob;
  exchange: Exchange;
  cause?: CauseCode;
  retryAfter?: number;
  at: number;
}

/** An app that has taken nothing for so long, in milliseconds, is away; one that has does not want a certain event. */
const AWAY_AFTER = 24 * 3_600_000;
/** Calls to one app at once; a slow one must not keep the others waiting. */
export const MOST_PER_APP = 24;
/** Claimed and unsent for an app that takes everything, as each claim costs a commit; for one in trouble no more than may leave now. */
const MOST_WAITING = 600;
/** When so few wait, more are claimed, so that some are always there to send. */
export const FEW_WAITING = MOST_WAITING / 2;
/** Sent and unnoted: beyond that, noting is what is behind. */
const MOST_UNNOTED = 4 * MOST_WAITING;

/**
 * Claims due deliveries: of each subscription as many as its circuit breaker lets through, and never
 * two of one conversation at once, as the earlier must arrive first. `waiting` says how many
 * of a subscription were claimed before and not sent yet.
 */
export function claimDeliveries(
  ctx: AppContext,
  owner: string,
  waiting: (subscriptionId: string) => number,
): Promise<DeliveryJob[]> {
  return ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      const jobs: DeliveryJob[] = [];
      const subscriptions = await unit.subscriptions.all({ disabled_at: null, paused_at: null });
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
        `UPDATE webhook_deliveries SET state = 'leased', lease_owner = :owner, attempts = attempts + 1, first_attempt_at = coalesce(first_attempt_at, :at)
        WHERE id IN (:ids)`,
        { owner, at, ids: jobs.map(({ delivery }) => delivery.id) },
      );
      return jobs;
    },
    { durable: false },
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
        `UPDATE webhook_deliveries SET state = 'due', lease_owner = NULL, attempts = attempts - 1,
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

export async function recordDeliveries(ctx: AppContext, reports: readonly DeliveryReport[]): Promise<void> {
  await ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      const facts: SubjectFact[] = [];
      await unit.exchanges.insert(
        reports.map((report) => exchangeRow('webhook', report.job.delivery.id, report.exchange, report.cause)),
      );
      const changes: Attempted[] = [];
      for (const [subscriptionId, group] of groupBy(reports, ({ job }) => job.subscription.id)) {
        const subscription = await unit.subscriptions.one({ id: subscriptionId });
        if (!subscription) continue;
        const breaker = await moveBreaker(unit, subscription, group, at);
        const attempted = group.map((report) => afterAttempt(breaker, report));
        changes.push(...attempted);
        const over = attempted.find((change) => change.pauses);
        if (over?.pauses) await pauseFailing(unit, subscription, over.pauses, at);
      }
      await unit.deliveries.changeEach(
        'id',
        changes.map(({ pauses: _, ...change }) => change),
      );
      for (const { job, cause, exchange, at: answeredAt } of reports) {
        const { delivery, subscription } = job;
        facts.push(
          cause
            ? fault(subscription.app_id, cause, answeredAt, delivery.id)
            : {
                subject: subscription.app_id,
                fact: { kind: 'called-out', began: exchange.at, at: answeredAt, ref: delivery.id },
              },
        );
      }
      await recordFacts(unit, facts, at);
      await noteChanges(
        unit,
        at,
        reports.flatMap(({ job }) => [
          ['delivery', job.subscription.id] as const,
          ...(job.delivery.message_id ? [['message', job.delivery.message_id] as const] : []),
        ]),
      );
    },
    { durable: false },
  );
}

/** Folds what came back into the circuit breaker. When it closes again, what failed meanwhile need not wait for its own next attempt. */
async function moveBreaker(
  unit: Unit,
  subscription: WebhookSubscriptionRow,
  reports: readonly DeliveryReport[],
  at: number,
): Promise<CircuitBreaker> {
  const before = subscription.breaker ?? closedBreaker(MOST_PER_APP);
  const after = reports.reduce(
    (breaker, { cause, exchange, at: answeredAt, retryAfter }) =>
      breakerAfter(
        breaker,
        { ok: cause === undefined, began: exchange.at, at: answeredAt, askedDelay: retryAfter, jitter: Math.random() },
        MOST_PER_APP,
      ),
    before,
  );
  if (after === before) return after;
  await unit.subscriptions.change({ id: subscription.id }, { breaker: after });
  if (before.open && !after.open) {
    await unit.execute(
      `UPDATE webhook_deliveries SET due_at = :at WHERE subscription_id = :id AND state = 'due' AND due_at > :at`,
      { id: subscription.id, at },
    );
  }
  return after;
}

type Attempted = Pick<
  WebhookDeliveryRow,
  'id' | 'state' | 'cause' | 'delivered_at' | 'due_at' | 'lease_owner' | 'last_status'
> & {
  /** The subscription is to pause, and why. */
  pauses?: 'failing' | 'gone';
};

/**
 * One attempt's outcome. When its time is over and the app is away, the subscription
 * pauses and the event waits. Otherwise it is this event that the app does not take, and
 * the ones behind it are let pass.
 */
function afterAttempt(breaker: CircuitBreaker, report: DeliveryReport): Attempted {
  const { delivery } = report.job;
  const { id, due_at } = delivery;
  const seen = { id, lease_owner: null, last_status: report.exchange.response?.status ?? null };
  if (!report.cause) return { ...seen, state: 'delivered', cause: null, delivered_at: report.at, due_at };
  const next = nextAttemptAt(WEBHOOK_RETRIES, {
    attempts: delivery.attempts,
    firstAttemptAt: delivery.first_attempt_at ?? report.at,
    now: report.at,
    askedDelay: report.retryAfter,
    jitter: Math.random(),
  });
  const away = breaker.failingSince !== undefined && report.at - breaker.failingSince > AWAY_AFTER;
  const gone = report.cause === 'app-gone';
  const state = next === undefined && !away && !gone ? 'given-up' : 'due';
  const pauses = gone ? 'gone' : next === undefined && away ? 'failing' : undefined;
  return { ...seen, state, cause: report.cause, delivered_at: null, due_at: next ?? report.at, pauses };
}

async function pauseFailing(
  unit: Unit,
  subscription: WebhookSubscriptionRow,
  why: 'failing' | 'gone',
  at: number,
): Promise<void> {
  const paused = await unit.subscriptions.change(
    { id: subscription.id, paused_at: null },
    { paused_at: at, paused_why: why },
  );
  if (paused === 0) return;
  const summary =
    why === 'gone'
      ? `Paused events to ${subscription.url}: the app wants no more there. They are kept.`
      : `Paused events to ${subscription.url}: three days of attempts failed. They are kept.`;
  await recordAudit(unit, SYSTEM, at, { action: 'subscription.paused', subject: subscription.id, summary });
  await noteChanges(unit, at, [['app', subscription.app_id]]);
  await tellAdministrators(unit, subscription.app_id, subscription.id, 'Events to an app are paused', summary, at);
}

/** At start: claims of an engine that is gone. An app may see one of these twice, with the same webhook-id. */
export function recoverDeliveries(ctx: AppContext): Promise<number> {
  return ctx.store.write((unit) =>
    unit.execute(
      `UPDATE webhook_deliveries SET state = 'due', due_at = :at, lease_owner = NULL WHERE state = 'leased'`,
      { at: ctx.now() },
    ),
  );
}

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
  found(actor.kind === 'app' && subscription?.app_id !== actor.id ? undefined : subscription, 'subscription');
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

/** Notes attempts as they end, many to a commit. */
export function createDeliveryReporter(ctx: AppContext): (report: DeliveryReport) => Promise<void> {
  return createBatcher(async (reports: DeliveryReport[]) => {
    await recordDeliveries(ctx, reports);
    return reports.map(() => undefined);
  });
}
