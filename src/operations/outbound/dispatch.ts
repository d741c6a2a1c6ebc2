/**
 * The way out, second half: the engine claims due texts, hands each to its provider and
 * notes the answer. What was claimed and not noted when a process died is asked for
 * again where the provider recognises our reference, and declared uncertain elsewhere.
 */

import type { Accepted, Connector, OutboundText, Outcome, TrunkLink } from '../../connectors/connector';
import { channelKind } from '../../core/connect/channelKinds';
import { cause } from '../../core/delivery/causes';
import { standingAfter } from '../../core/delivery/lifecycle';
import { secondsLeft } from '../../core/delivery/validity';
import { HIDDEN_CODE } from '../../core/limits/codes';
import { nextAttemptAt, SEND_RETRIES } from '../../core/signing/retryPlan';
import { markOf } from '../../core/trunk/submits';
import { createBatcher } from '../../store/batcher';
import type {
  ChannelRow,
  MessagePartRow,
  MessageRow,
  MessageTemplate,
  OutboxRow,
  ProviderAccountRow,
  ProviderNumberRow,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { testPhones } from '../bench';
import { declinedAtProvider } from '../contacts';
import {
  type Actor,
  type AppContext,
  exchangeRow,
  found,
  invalidText,
  noteChanges,
  OperationError,
  receiptUrl,
  recordAudit,
  requireReachedMessage,
  requireRole,
} from '../context';
import {
  appendMessageEvents,
  applyKeptReceipts,
  type Learned,
  type NewMessageEvent,
  standingColumns,
} from '../messages';
import { openCredentials, syncProfiles } from '../profiles';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import { aloneAfterFailure, noteFailure } from '../workQueue';
import { mailAddressFor } from './carrierLookUp';
import { mailOf } from './outboundMail';
import { sendQueue } from './sendQueue';
import { withdrawDeclined, withdrawExpired } from './withdrawals';

/** A channel with what is needed to send over it. */
export interface SendingLine {
  channel: ChannelRow;
  account: ProviderAccountRow;
  number: ProviderNumberRow;
  connector: Connector;
}

export interface SendJob {
  line: SendingLine;
  entry: OutboxRow;
  message: MessageRow;
}

export interface SendReport {
  job: SendJob;
  outcome: Outcome<Accepted>;
  /** When the answer came. */
  at: number;
}

/** Channels that have something due now, or the time at which the next one will. */
export async function dueChannels(ctx: AppContext): Promise<{ lines: SendingLine[]; nextDueAt: number | undefined }> {
  const now = ctx.now();
  const waiting = await ctx.store.select<{ channel_id: string; due_at: number }>(
    `SELECT channel_id, min(due_at) AS due_at FROM outbox WHERE state = 'due' GROUP BY channel_id`,
  );
  const due = waiting.filter((row) => row.due_at <= now).map((row) => row.channel_id);
  const later = waiting.filter((row) => row.due_at > now).map((row) => row.due_at);
  const nextDueAt = later.length > 0 ? Math.min(...later) : undefined;
  if (due.length === 0) return { lines: [], nextDueAt };
  await syncProfiles(ctx);
  // One channel or account whose row is damaged keeps no other from sending.
  const channels = await ctx.store.channels.readableBy('id', due);
  const [accounts, numbers] = await Promise.all([
    ctx.store.accounts.readableBy('id', [...new Set(channels.map((channel) => channel.account_id))]),
    ctx.store.numbers.readableBy(
      'id',
      channels.map((channel) => channel.number_id),
    ),
  ]);
  // What waits for an account that is switched off stays where it is.
  const lines = channels.flatMap((channel) => {
    const account = accounts.find((row) => row.id === channel.account_id && row.disabled_at === null);
    const number = numbers.find((row) => row.id === channel.number_id);
    if (!account || !number || !ctx.connectors.has(account.connector)) return [];
    return [{ channel, account, number, connector: ctx.connectors.get(account.connector) }];
  });
  return { lines, nextDueAt };
}

const NEXT_DUE = `SELECT message_id FROM outbox WHERE state = 'due' AND channel_id = :channel AND due_at <= :at
  ORDER BY priority DESC, due_at, message_id LIMIT :most`;

/**
 * Claims up to `most` due texts of a channel: highest priority first, then oldest. The claim is on disk before anything is
 * sent. One that cannot be claimed, because its row cannot be read, keeps no other from being sent.
 */
export async function claimDue(ctx: AppContext, line: SendingLine, most: number, owner: string): Promise<SendJob[]> {
  try {
    return await claim(ctx, line, most, owner);
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
    const due = { channel: line.channel.id, at: ctx.now(), most };
    const ids = (await ctx.store.select<{ message_id: string }>(NEXT_DUE, due)).map(({ message_id }) => message_id);
    return (await aloneAfterFailure(ctx, sendQueue, ids, (some) => claim(ctx, line, most, owner, some))).flat();
  }
}

/** In one unit: all that are due, or of these `only`. */
function claim(
  ctx: AppContext,
  line: SendingLine,
  most: number,
  owner: string,
  only?: readonly string[],
): Promise<SendJob[]> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const entries = await unit.select<OutboxRow>(
      `UPDATE outbox SET state = 'leased', lease_owner = :owner, leased_at = :at, attempts = attempts + 1,
              first_attempt_at = coalesce(first_attempt_at, :at)
        WHERE state = 'due' AND message_id IN ${only ? '(:only)' : `(${NEXT_DUE})`}
       RETURNING *`,
      only ? { owner, at, only: [...only] } : { owner, at, channel: line.channel.id, most },
    );
    if (entries.length === 0) return [];
    const account = line.account.id;
    // The channel as it was read may have moved to another account since: what is claimed is what this account sends.
    const here = await unit.channels.one({ id: line.channel.id, account_id: account });
    if (!here) {
      await letGo(unit, entries);
      return [];
    }
    const elsewhere = entries.filter(({ tried_with }) => tried_with !== null && tried_with !== account);
    await leaveWithOther(unit, elsewhere, at);
    await unit.outbox.change(
      { message_id: entries.map(({ message_id }) => message_id), state: 'leased' },
      { tried_with: account },
    );
    entries.sort(byTurn);
    const gone = new Set([
      ...elsewhere.map(({ message_id }) => message_id),
      ...(await withdrawDeclined(unit, line.channel, entries, at)),
      ...(await withdrawExpired(unit, entries, at)),
    ]);
    const going = entries.filter((entry) => !gone.has(entry.message_id));
    const messages = await appendMessageEvents(
      unit,
      going.map((entry) => ({ message_id: entry.message_id, kind: 'attempted', at, attempt: entry.attempts })),
      at,
    );
    return going.map((entry) => ({ line, entry, message: found(messages.get(entry.message_id), 'message') }));
  });
}

/** As if they had not been claimed. */
async function letGo(unit: Unit, entries: readonly OutboxRow[]): Promise<void> {
  for (const { message_id, attempts, first_attempt_at, leased_at } of entries)
    await unit.outbox.change(
      { message_id },
      {
        state: 'due',
        lease_owner: null,
        leased_at: null,
        attempts: attempts - 1,
        first_attempt_at: first_attempt_at === leased_at ? null : first_attempt_at,
      },
    );
}

/** What an account may have that no longer sends for the channel is not sent through another: its outcome is not known. */
async function leaveWithOther(unit: Unit, entries: readonly OutboxRow[], at: number): Promise<void> {
  if (entries.length === 0) return;
  const ids = entries.map(({ message_id }) => message_id);
  await unit.outbox.change({ message_id: ids }, { state: 'uncertain', lease_owner: null, leased_at: null });
  await appendMessageEvents(
    unit,
    entries.map(({ message_id, attempts }) => ({
      message_id,
      kind: 'uncertain',
      at,
      attempt: attempts,
      cause: 'outcome-unknown',
      detail: { said: 'the number moved to another account after the attempt' },
    })),
    at,
  );
}

/** What is returned by an UPDATE comes in no certain order. */
function byTurn(a: OutboxRow, b: OutboxRow): number {
  return b.priority - a.priority || a.due_at - b.due_at || (a.message_id < b.message_id ? -1 : 1);
}

/** Hands one text over: through the held link of a trunk, or by the connector's own way of sending. */
export async function handOver(ctx: AppContext, job: SendJob, link?: TrunkLink): Promise<SendReport> {
  const { line, message } = job;
  const text: OutboundText = {
    reference: message.id,
    sender: message.sender,
    recipient: message.recipient,
    text: message.text,
    // At once where there is nothing to look up: the link counts what it was given.
    ...(message.text.includes(HIDDEN_CODE) ? await spelledOut(ctx, message) : {}),
    media: message.media ?? undefined,
    validSeconds: secondsLeft(await lastMoment(ctx, message), ctx.now()),
    receiptUrl: receiptUrl(ctx, line.channel),
    numberId: line.number.remote_id,
    ...(message.template ? { template: asSubmitted(message.template) } : {}),
    ...(channelKind(line.channel.kind).subjects ? { mail: await mailOf(ctx, message) } : {}),
  };
  if (text.shown !== undefined && text.text === text.shown)
    return { job, outcome: { ok: false, failure: { cause: 'code-over' } }, at: ctx.now() };
  const outcome = line.connector.trunk ? await submitOver(link, message, text) : await sendOver(ctx, job, text);
  return { job, outcome: text.shown === undefined ? outcome : unread(outcome, text), at: ctx.now() };
}

/** The earlier of its last useful moment and the end of the time its first way has: what comes later would come twice. */
async function lastMoment(ctx: AppContext, { id, valid_until, fallback_to }: MessageRow): Promise<number | null> {
  const until =
    fallback_to === null ? null : ((await ctx.store.fallbacks.one({ message_id: id }))?.first_until ?? null);
  const ends = [valid_until, until].filter((each) => each !== null);
  return ends.length > 0 ? Math.min(...ends) : null;
}

/** The code in its place, for one that waits to be confirmed. Its message is kept without it. */
async function spelledOut(ctx: AppContext, { id, text }: MessageRow): Promise<Partial<OutboundText>> {
  const kept = await ctx.store.verificationCodes.one({ message_id: id });
  if (!kept) return {};
  const open = kept.state === 'open' && kept.sealed_code !== null && kept.expires_at > ctx.now();
  const code = open ? ctx.sealer.open<{ code: string }>(kept.sealed_code as string).code : HIDDEN_CODE;
  return { text: text.replace(HIDDEN_CODE, code), shown: text };
}

/** The outcome with evidence in which the code stands nowhere. */
function unread<Value>(outcome: Outcome<Value>, { text, shown = '' }: OutboundText): Outcome<Value> {
  const at = shown.indexOf(HIDDEN_CODE);
  const code = text.slice(at, at + text.length - shown.length + HIDDEN_CODE.length);
  const hide = (written: string) => written.replaceAll(code, HIDDEN_CODE);
  const { exchange } = outcome;
  if (!exchange) return outcome;
  const { request, response } = exchange;
  return {
    ...outcome,
    exchange: {
      ...exchange,
      request: { ...request, url: hide(request.url), body: request.body === null ? null : hide(request.body) },
      response: response && { ...response, body: hide(response.body) },
    },
  };
}

/** Between two links of a trunk nothing is held: the text was not written and waits for the next link. */
async function submitOver(link: TrunkLink | undefined, { id }: MessageRow, text: OutboundText) {
  const between: Outcome<Accepted> = { ok: false, failure: { cause: 'trunk-down', said: 'the link is being renewed' } };
  return link ? link.submit({ ...text, mark: markOf(id) }) : between;
}

function asSubmitted({ remote_id, edition, language, numbered }: MessageTemplate): OutboundText['template'] {
  return { remoteId: remote_id, edition, language, values: numbered };
}

async function sendOver(ctx: AppContext, { line, message }: SendJob, text: OutboundText): Promise<Outcome<Accepted>> {
  const { connector, account } = line;
  const credentials = openCredentials(ctx, account);
  if (!connector.send) throw new Error(`${connector.name} does not send`);
  if (!connector.lookUpCarrier) return connector.send(credentials, text);
  const address = await mailAddressFor(ctx, connector, credentials, message);
  return address.ok ? connector.send(credentials, { ...text, mailTo: address.value }) : address;
}

/**
 * One text over an account that sends nothing else yet, before a number moves to it. It is no message and goes to phones of
 * our own alone, so that nothing of what protects people is passed by. Throws for any other.
 */
export async function rehearse(
  ctx: AppContext,
  account: ProviderAccountRow,
  text: OutboundText,
): Promise<Outcome<Accepted>> {
  if (!(await testPhones(ctx)).some(({ number }) => number === text.recipient))
    throw invalidText(
      'to',
      'This is neither a handset of the bench nor a verified phone.',
      'Choose a phone of your own that is known here.',
    );
  const connector = ctx.connectors.get(account.connector);
  if (!connector.send) throw new Error(`${connector.name} does not send`);
  return connector.send(openCredentials(ctx, account), text);
}

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
  const next = nextAttemptAt(SEND_RETRIES, {
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

interface TakenOver {
  resumed: number;
  uncertain: number;
}

/**
 * Takes over claims nobody works on: at start all of an engine that is gone; later, with `held` (messages that are being
 * worked on), those whose answer could not be noted. `why` says what of the message itself kept it from being noted, which
 * counts as a failure at it. One that cannot be taken over is left, and keeps no other.
 */
export async function recoverClaims(
  ctx: AppContext,
  { held = new Set(), why }: { held?: ReadonlySet<string>; why?: (messageId: string) => unknown } = {},
): Promise<TakenOver> {
  await syncProfiles(ctx, true);
  const leased = await ctx.store.outbox.all({ state: 'leased' });
  const lost = leased.map(({ message_id }) => message_id).filter((id) => !held.has(id));
  if (lost.length === 0) return { resumed: 0, uncertain: 0 };
  const takeOver = createBatcher(async (ids: string[]) => takeOverClaims(ctx, ids), lost.length);
  const outcomes = await Promise.all(
    lost.map(async (id) => {
      try {
        const outcome = await takeOver(id);
        const reason = why?.(id);
        if (outcome === 'resumed' && reason !== undefined) await noteFailure(ctx, sendQueue, id, reason);
        return outcome;
      } catch (error) {
        if (isStoreTrouble(error)) throw error;
        return leaveClaim(ctx, id, error);
      }
    }),
  );
  return {
    resumed: outcomes.filter((each) => each === 'resumed').length,
    uncertain: outcomes.filter((each) => each === 'uncertain').length,
  };
}

interface Claim {
  id: string;
  attempts: number;
  /** Of its message; null where that is gone. */
  state: MessageRow['state'] | null;
  connector: string | null;
}

/** What decides about claims, without any document that may be damaged: of what was handed over nothing is sent again for that. */
function readClaims(from: Pick<Unit, 'select'>, ids: readonly string[]): Promise<Claim[]> {
  return from.select<Claim>(
    `SELECT o.message_id AS id, o.attempts, m.state, a.connector FROM outbox o
       LEFT JOIN messages m ON m.id = o.message_id LEFT JOIN channels c ON c.id = o.channel_id
       LEFT JOIN provider_accounts a ON a.id = coalesce(o.tried_with, c.account_id) WHERE o.message_id IN (:ids)`,
    { ids: [...ids] },
  );
}

/** Whether the provider tells a repeated reference from a new text. A profile this version cannot read promises nothing. */
function asksAgain(ctx: AppContext, connector: string | null | undefined): boolean {
  return connector !== null && connector !== undefined && ctx.connectors.has(connector)
    ? ctx.connectors.get(connector).honoursReference
    : false;
}

/** A claim whose message cannot be read is tried again where that is safe; elsewhere it may be out there already, and waits for a person. */
async function leaveClaim(ctx: AppContext, id: string, error: unknown): Promise<'uncertain' | undefined> {
  const [claim] = await readClaims(ctx.store, [id]);
  if (!claim || asksAgain(ctx, claim.connector)) {
    await noteFailure(ctx, sendQueue, id, error);
    return undefined;
  }
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const event = { kind: 'uncertain' as const, at, attempt: claim.attempts, cause: 'outcome-unknown' as const };
    await unit.outbox.change({ message_id: id }, { state: 'uncertain', lease_owner: null, leased_at: null });
    await unit.events.insert([
      { ...event, message_id: id, recorded_at: at, detail: null, exchange_id: null, inbound_request_id: null },
    ]);
    await unit.messages.change({ id }, standingColumns(standingAfter(event)));
    await noteChanges(unit, at, [['message', id]]);
  });
  ctx.log.error({ err: error, message: id }, 'a text that was handed over cannot be read; its outcome is not known');
  return 'uncertain';
}

/** In one unit: asked again where the provider recognises our reference, uncertain elsewhere. */
function takeOverClaims(ctx: AppContext, ids: readonly string[]): Promise<('settled' | 'resumed' | 'uncertain')[]> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const claims = new Map((await readClaims(unit, ids)).map((claim) => [claim.id, claim]));
    const events: NewMessageEvent[] = [];
    const outcomes: ('settled' | 'resumed' | 'uncertain')[] = [];
    for (const message_id of ids) {
      const claim = claims.get(message_id);
      const attempt = claim?.attempts;
      if (claim?.state !== 'sending') {
        // A receipt told the outcome while nobody was there to note the answer.
        await unit.outbox.remove({ message_id });
        outcomes.push('settled');
      } else if (asksAgain(ctx, claim.connector)) {
        await unit.outbox.change({ message_id }, { state: 'due', due_at: at, lease_owner: null, leased_at: null });
        const detail = { said: 'the answer was not noted; asked again with the same reference', unknown: true };
        events.push({ message_id, kind: 'deferred', at, attempt, detail });
        outcomes.push('resumed');
      } else {
        await unit.outbox.change({ message_id }, { state: 'uncertain', lease_owner: null, leased_at: null });
        events.push({ message_id, kind: 'uncertain', at, attempt, cause: 'outcome-unknown' });
        outcomes.push('uncertain');
      }
    }
    await appendMessageEvents(unit, events, at);
    return outcomes;
  });
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
