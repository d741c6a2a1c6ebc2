/** What came of attempts at deliveries: noted many to a commit, retried, held back or paused. */
import { groupBy } from '../../../core/groupBy';
import { breakerAfter, type CircuitBreaker, closedBreaker } from '../../../core/pacing/circuitBreaker';
import { nextAttemptAt, WEBHOOK_RETRIES } from '../../../core/signing/retryPlan';
import { createBatcher } from '../../../store/batcher';
import type { WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { type AppContext, exchangeRow, noteChanges, recordAudit, SYSTEM } from '../../context';
import { tellAdministrators } from '../../people';
import { fault, recordFacts, type SubjectFact } from '../../proofs';
import type { DeliveryReport } from './deliveryJobs';
import { MOST_PER_APP } from './deliveryJobs';

/** An app that has taken nothing for so long, in milliseconds, is away; one that has does not want a certain event. */
const AWAY_AFTER = 24 * 3_600_000;

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
  'id' | 'state' | 'cause' | 'delivered_at' | 'due_at' | 'lease_owner' | 'leased_at' | 'last_status'
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
  const seen = { id, lease_owner: null, leased_at: null, last_status: report.exchange.response?.status ?? null };
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

/** Notes attempts as they end, many to a commit. */
export function createDeliveryReporter(ctx: AppContext): (report: DeliveryReport) => Promise<void> {
  return createBatcher(async (reports: DeliveryReport[]) => {
    await recordDeliveries(ctx, reports);
    return reports.map(() => undefined);
  });
}
