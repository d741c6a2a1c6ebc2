/** What came of a text that was handed over: noted with its evidence, tried again later, given up, or left open until it is known. */

import type { Accepted } from '../../connectors/connector';
import { cause } from '../../core/delivery/causes';
import { DAILY_RETRIES, nextAttemptAt, SEND_RETRIES } from '../../core/signing/retryPlan';
import { createBatcher } from '../../store/batcher';
import type { MessagePartRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { declinedAtProvider } from '../contacts';
import {
  type Actor,
  type AppContext,
  exchangeRow,
  found,
  OperationError,
  recordAudit,
  requireReachedMessage,
  requireRole,
} from '../context';
import { appendMessageEvents, applyKeptReceipts, type Learned, type NewMessageEvent } from '../messages';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import type { SendReport } from './handOver';

/** Notes many answers in one unit. */
export async function recordReports(ctx: AppContext, reports: readonly SendReport[]): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const events: NewMessageEvent[] = [];
    const facts: SubjectFact[] = [];
    const accepted = new Map<string, Learned>();
    const parts: MessagePartRow[] = [];
    const evidence = reports.map(({ job, outcome }) =>
      outcome.exchange
        ? exchangeRow('send', job.message.id, outcome.exchange, outcome.ok ? undefined : outcome.failure.cause)
        : undefined,
    );
    await unit.exchanges.insert(evidence.filter((row) => row !== undefined));
    for (const [index, report] of reports.entries()) {
      const exchangeId = evidence[index]?.id ?? null;
      const { job, outcome } = report;
      if (outcome.ok) {
        accepted.set(job.message.id, learnedFrom(outcome.value));
        parts.push(...partRows(job.message, outcome.value));
        events.push({
          message_id: job.message.id,
          kind: 'accepted',
          at: report.at,
          attempt: job.entry.attempts,
          exchange_id: exchangeId,
        });
      } else {
        events.push({ ...(await recordFailure(ctx, unit, report)), exchange_id: exchangeId });
        facts.push(fault(job.line.channel.id, outcome.failure.cause, report.at, job.message.id));
      }
    }
    await unit.outbox.removeBy('message_id', [...accepted.keys()]);
    await unit.messageParts.insert(parts);
    const rows = new Map(reports.map(({ job }) => [job.message.id, job.message]));
    await appendMessageEvents(unit, events, at, { rows, learned: accepted });
    await applyKeptReceipts(unit, accepted.values(), at);
    await recordFacts(unit, facts, at);
    await declinedAtProvider(unit, reports.flatMap(declinedIn), at);
  });
  ctx.engineWakeUp.ring('webhooks');
}

/** A send that the provider refused because its recipient declined there. */
function declinedIn({ job: { line, message }, outcome }: SendReport) {
  if (outcome.ok || outcome.failure.cause !== 'opted-out') return [];
  return [{ message, channel: line.channel, said: outcome.failure.said, by: line.account.name }];
}

function learnedFrom({ providerMessageId, price }: Accepted): Learned {
  return {
    provider_message_id: providerMessageId,
    price_micros: price?.micros ?? null,
    price_currency: price?.currency ?? null,
  };
}

/** The provider's ids of all parts, where receipts come for each of them. */
function partRows(message: MessageRow, { parts = [] }: Accepted): MessagePartRow[] {
  return parts.map((id, index) => ({
    message_id: message.id,
    sequence: index + 1,
    channel_id: message.channel_id,
    provider_message_id: id,
    state: 'sent' as const,
  }));
}

/** An answer that came after its text had been given up as unknown: it is known after all. */
export async function settleLate(ctx: AppContext, messageId: string, value: Accepted): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const message = await unit.messages.one({ id: messageId });
    const entry = await unit.outbox.one({ message_id: messageId });
    if (message?.state !== 'uncertain' || !entry) return;
    await unit.outbox.remove({ message_id: messageId });
    await unit.messageParts.insert(partRows(message, value));
    const detail = { said: 'the answer came late' };
    await appendMessageEvents(
      unit,
      [{ message_id: messageId, kind: 'accepted', at, attempt: entry.attempts, detail }],
      at,
      { learned: new Map([[messageId, learnedFrom(value)]]) },
    );
    await applyKeptReceipts(unit, [learnedFrom(value)], at);
  });
}

/** Tries again later, gives up, or says that the outcome is not known. */
async function recordFailure(ctx: AppContext, unit: Unit, report: SendReport): Promise<NewMessageEvent> {
  const { job, outcome, at } = report;
  if (outcome.ok) throw new Error('Not a failure');
  const { failure } = outcome;
  const id = job.message.id;
  const detail = { said: failure.said ?? null, ...(failure.outcomeUnknown ? { unknown: true } : {}) };
  const event = { message_id: id, at, attempt: job.entry.attempts, detail };
  if (failure.outcomeUnknown && !job.line.connector.honoursReference) {
    await unit.outbox.change({ message_id: id }, { state: 'uncertain', lease_owner: null, leased_at: null });
    return { ...event, kind: 'uncertain', cause: 'outcome-unknown' };
  }
  if (!cause(failure.cause).transient) {
    await unit.outbox.remove({ message_id: id });
    return { ...event, kind: 'refused', cause: failure.cause };
  }
  const next = nextAttemptAt(cause(failure.cause).renewsDaily ? DAILY_RETRIES : SEND_RETRIES, {
    attempts: job.entry.failures + 1,
    firstAttemptAt: job.entry.first_attempt_at ?? at,
    now: ctx.now(),
    askedDelay: failure.retryAfter,
    jitter: Math.random(),
  });
  if (next === undefined) {
    await unit.outbox.remove({ message_id: id });
    return { ...event, kind: 'refused', cause: 'gave-up' };
  }
  const failures = job.entry.failures + 1;
  await unit.outbox.change(
    { message_id: id },
    {
      state: 'due',
      due_at: next,
      lease_owner: null,
      leased_at: null,
      failures,
      // What is known not to have been taken may go through any account.
      ...(failure.outcomeUnknown || job.entry.tried_with !== null ? {} : { tried_with: null }),
    },
  );
  return { ...event, kind: 'deferred', cause: failure.cause, detail: { ...event.detail, nextAttemptAt: next } };
}
/** A person decides about a text whose outcome is not known. */
export async function settleUncertain(
  ctx: AppContext,
  actor: Actor,
  messageId: string,
  decision: 'send-again' | 'arrived',
): Promise<void> {
  requireRole(actor, 'agent');
  await requireReachedMessage(ctx.store, actor, messageId);
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const message = found(await unit.messages.one({ id: messageId }), 'message');
    if (message.state !== 'uncertain')
      throw new OperationError('conflict', 'The outcome of this message is known by now.');
    if (decision === 'send-again' && message.continued_by !== null)
      throw new OperationError('conflict', 'It has gone over its second way meanwhile, and would be there twice.');
    const entry = found(await unit.outbox.one({ message_id: messageId }), 'outbox entry');
    if (decision === 'send-again') {
      await unit.outbox.change({ message_id: messageId }, { state: 'due', due_at: at, tried_with: null });
    } else {
      await unit.outbox.remove({ message_id: messageId });
    }
    const kind = decision === 'send-again' ? 'requeued' : 'settled';
    await appendMessageEvents(
      unit,
      [{ message_id: messageId, kind, at, attempt: entry.attempts, detail: { by: actor.name } }],
      at,
    );
    const summary =
      decision === 'send-again'
        ? 'Sent a message of unknown outcome again'
        : 'Said that a message of unknown outcome arrived';
    await recordAudit(unit, actor, at, { action: 'message.settled', subject: messageId, summary });
  });
  ctx.engineWakeUp.ring('outbox');
}

/** Notes answers as they come, many to a commit. */
export function createReporter(ctx: AppContext): (report: SendReport) => Promise<void> {
  return createBatcher(async (reports: SendReport[]) => {
    await recordReports(ctx, reports);
    return reports.map(() => undefined);
  });
}
