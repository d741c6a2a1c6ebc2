import { channelKind } from '../../core/connect/channelKinds';
import type { ConsentWay } from '../../core/consent/ways';
import { standingAfter } from '../../core/delivery/lifecycle';
import { inOneLine } from '../../core/delivery/media';
import { groupBy } from '../../core/groupBy';
import { replySubject } from '../../core/mail/subject';
import { BULK_PRIORITY, CODE_PRIORITY, REPLY_PRIORITY } from '../../core/pacing/bulk';
import { measureText } from '../../core/text/measure';
import { createBatcher } from '../../store/batcher';
import { newId } from '../../store/ids';
import type { ChannelRow, IdempotencyRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { messageData } from '../apps/webhooks';
import { testPhones } from '../bench';
import { type ConsentReply, declined } from '../contacts';
import {
  type Actor,
  type AppContext,
  isOperationError,
  noteMessages,
  type OperationError,
  requireAccess,
  SYSTEM,
} from '../context';
import { holdersOf, identityOn, ofTelephone } from '../identities';
import { countSends, homeOf, type Judged, pricesOf } from '../limits';
import { standingColumns } from '../messages';
import { readOrganisation } from '../organisation';
import { syncProfiles } from '../profiles';
import { threadKey, threadsFor } from '../threads';
import { noteSetAside } from '../workQueue';
import { earlierAnswers, hashOf, keepAnswers, keyOf, replay } from './idempotency';
import { limitRefusal, wordsOfRise } from './limitWords';
import { createFactRefresh } from './oldFacts';
import { keepRefusals } from './refusedRequests';
import { carriesCode, watchFirstWays } from './secondWay/watch';
import type { Draft, Order, Ordered, Saying, SendAnswer, SendContext, Sender } from './sendRequests';
import { draftOf, readSendContext, refusal } from './validateSend';

export function createSender(ctx: AppContext): Sender {
  const refresh = createFactRefresh(ctx);
  const order = createBatcher<Order, Ordered>(async (orders) => {
    await syncProfiles(ctx);
    const results = await ctx.store.write((unit) => placeOrders(ctx, unit, orders));
    ctx.engineWakeUp.ring('outbox');
    return results;
  }, 200);

  return async (actor, input, idempotencyKey, code) => {
    requireAccess(actor, 'agent', code ? 'codes:send' : 'messages:send');
    const only = actor.kind === 'app' && actor.forTests ? await testNumbers(ctx) : undefined;
    const first = await order({ actor, input, idempotencyKey, code, only, refresh });
    if (!isOperationError(first)) return first;
    if (!refresh.mayChange(first)) throw first;
    await refresh.ask(first);
    const second = await order({ actor, input, idempotencyKey, code, only });
    if (isOperationError(second)) throw second;
    return second;
  };
}

/** Whom a test key reaches. Asked before the unit begins, as the bench answers over the network. */
async function testNumbers(ctx: AppContext): Promise<ReadonlySet<string>> {
  return new Set((await testPhones(ctx)).map(({ number }) => number));
}

/** A refused order is an answer, not a failure: it must not undo its neighbours in the unit. */
async function placeOrders(ctx: AppContext, unit: Unit, orders: readonly Order[]): Promise<Ordered[]> {
  const at = ctx.now();
  const known = await readSendContext(ctx, unit, orders);
  const earlier = await earlierAnswers(unit, orders);
  const results = new Map<Order, Ordered>();
  const drafts: Draft[] = [];
  /** Of several orders with one key in the same unit the one whose answer the others get. */
  const acceptedWith = new Map<string, Order>();
  let waiting = orders.filter((order) => !earlier.has(keyOf(order) ?? ''));
  // A refused order does not use its key up: the next one with it is tried, as it would be a moment later.
  while (waiting.length > 0) {
    const { now, later } = oneOfEachKey(waiting);
    for (const draft of await draftAll(ctx, unit, known, now, results, at)) {
      drafts.push(draft);
      const key = keyOf(draft.order);
      if (key !== undefined) acceptedWith.set(key, draft.order);
    }
    waiting = later.filter((order) => !acceptedWith.has(keyOf(order) ?? ''));
  }
  const messages = await queueTexts(unit, drafts, at);
  for (const [index, { order }] of drafts.entries()) {
    const message = messages[index] as MessageRow;
    await order.code?.keep(unit, message);
    results.set(order, { status: 202, message: messageData(message), replayed: false });
  }
  await keepAnswers(unit, [...acceptedWith.values()], results, at);
  await keepRefusals(unit, known, results, at);
  return orders.map((order) => results.get(order) ?? repeated(order, earlier, acceptedWith, results));
}

/** The first order with each key, with all that have none, and those that wait for what becomes of it. */
function oneOfEachKey(orders: readonly Order[]): { now: Order[]; later: Order[] } {
  const met = new Set<string>();
  const now: Order[] = [];
  const later: Order[] = [];
  for (const order of orders) {
    const key = keyOf(order);
    (key !== undefined && met.has(key) ? later : now).push(order);
    if (key !== undefined) met.add(key);
  }
  return { now, later };
}

/** Orders that may be sent, ready for the queue; the refusals of the others are among the results. */
async function draftAll(
  ctx: AppContext,
  unit: Unit,
  known: SendContext,
  orders: readonly Order[],
  results: Map<Order, Ordered>,
  at: number,
): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const order of orders) {
    try {
      const draft = await draftOf(ctx, unit, known, order, at);
      await order.code?.judge(unit, draft.recipient);
      drafts.push(draft);
    } catch (error) {
      if (!isOperationError(error)) throw error;
      results.set(order, error);
    }
  }
  const gone = await declinedAmong(unit, drafts);
  for (const [draft, refusal] of gone) results.set(draft.order, refusal);
  const allowed = drafts.filter((draft) => !gone.has(draft));
  return withinLimits(unit, known, allowed, at, (draft, refusal) => results.set(draft.order, refusal));
}

/** Those that no limit stops; a rise is among them, to be held. */
async function withinLimits(
  unit: Unit,
  known: Pick<SendContext, 'prices' | 'home'>,
  drafts: readonly Draft[],
  at: number,
  refuse: (draft: Draft, refusal: OperationError) => void,
): Promise<Draft[]> {
  const judged = await countSends(
    unit,
    drafts.map(({ order, channel, recipient, said }) => ({
      actor: order.actor,
      recipient: ofTelephone(channel) ? recipient : '',
      parts: measureText(said.text).parts.length,
      prices: known.prices.get(channel.account_id) ?? [],
      home: known.home,
      code: order.code,
    })),
    at,
  );
  return drafts.flatMap((draft, index) => {
    const verdict = judged[index] as Judged;
    if (verdict.goes) return [draft];
    if ('held' in verdict) return [{ ...draft, held: wordsOfRise(verdict.held, draft.order.actor.name) }];
    refuse(draft, limitRefusal(verdict.stop));
    return [];
  });
}

/** The answer of an order whose key was used before, in this unit or in an earlier one. */
function repeated(
  order: Order,
  earlier: ReadonlyMap<string, IdempotencyRow>,
  acceptedWith: ReadonlyMap<string, Order>,
  results: ReadonlyMap<Order, Ordered>,
): Ordered {
  const key = keyOf(order) as string;
  const kept = earlier.get(key);
  if (kept) return replay(order, kept.body_hash, JSON.parse(kept.response) as SendAnswer['message'], kept.status);
  const first = acceptedWith.get(key) as Order;
  const answer = results.get(first) as SendAnswer;
  return replay(order, hashOf(first.input), answer.message, answer.status);
}

/** Why an order would be refused before it reached the outbox; undefined when it would not. Nothing is written. */
export async function foreseeRefusal(ctx: AppContext, input: Order['input']): Promise<OperationError | undefined> {
  const order: Order = { actor: SYSTEM, input };
  return ctx.store.write(async (unit) => {
    try {
      const draft = await draftOf(ctx, unit, await readSendContext(ctx, unit, [order]), order, ctx.now());
      return (await declinedAmong(unit, [draft])).get(draft);
    } catch (error) {
      if (isOperationError(error)) return error;
      throw error;
    }
  });
}

/** Orders to people who declined, each with its refusal. Every way of sending comes by here. */
async function declinedAmong(unit: Unit, drafts: readonly Draft[]): Promise<Map<Draft, OperationError>> {
  const refused = new Map<Draft, OperationError>();
  const holders = await holdersOf(
    unit,
    drafts.map(({ channel, recipient }) => identityOn(channel, recipient)),
  );
  const gone = await declined(
    unit,
    [...holders.values()].map(({ contact_id }) => contact_id),
  );
  for (const draft of drafts) {
    const contact = holders.get(threadKey(draft.recipient, draft.channel))?.contact_id;
    if (contact === undefined || !gone.has(`${channelKind(draft.channel.kind).consent} ${contact}`)) continue;
    const wording = await lastWording(unit, contact, channelKind(draft.channel.kind).consent);
    refused.set(draft, refusal('to', 'opted-out', draft.recipient, undefined, wording));
  }
  return refused;
}

async function lastWording(unit: Unit, contact_id: string, way: ConsentWay): Promise<string | undefined> {
  const [entry] = await unit.consentEntries.all({ contact_id, way }, { order: [['id', 'DESC']], limit: 1 });
  return entry?.wording.slice(0, 80);
}

/** Confirms opt-outs and opt-ins in the unit that enters them; these alone go to people who declined. */
export async function queueConsentReplies(
  ctx: AppContext,
  unit: Unit,
  replies: readonly ConsentReply[],
  at: number,
): Promise<void> {
  if (replies.length === 0) return;
  const drafts = replies.map(
    ({ channel, recipient, text, inReplyTo, subject }): Draft => ({
      order: { actor: SYSTEM, input: { text, inReplyTo }, consent: true },
      channel,
      recipient,
      said: { text },
      subject: subject === null ? null : replySubject(subject),
    }),
  );
  const [accounts, numbers, organisation] = await Promise.all([
    unit.accounts.all(),
    unit.numbers.all(),
    readOrganisation(unit),
  ]);
  const known = { prices: await pricesOf(ctx, unit, accounts), home: homeOf(numbers, organisation) };
  // Whoever sends opt-out words without end is believed each time, and answered up to the limits.
  const going = await withinLimits(unit, known, drafts, at, () => undefined);
  await queueTexts(unit, going, at);
}

/**
 * Queues messages as the second way of others, in the unit of the caller. Returns for each order its message, or why
 * there is none. `last` says at the end whether it is still to go.
 */
export async function queueSecondWays(
  ctx: AppContext,
  unit: Unit,
  orders: readonly Order[],
  at: number,
  last: (order: Order) => Promise<boolean>,
): Promise<Map<Order, MessageRow | OperationError>> {
  const results = new Map<Order, Ordered>();
  const known = await readSendContext(ctx, unit, orders);
  const drafts: Draft[] = [];
  for (const draft of await draftAll(ctx, unit, known, orders, results, at))
    if (await last(draft.order)) drafts.push(draft);
  const messages = await queueTexts(unit, drafts, at);
  const refused = [...results].flatMap(([order, result]) =>
    isOperationError(result) ? [[order, result] as const] : [],
  );
  return new Map<Order, MessageRow | OperationError>([
    ...refused,
    ...drafts.map(({ order }, index) => [order, messages[index] as MessageRow] as const),
  ]);
}

/**
 * Queues messages of a broadcast that were judged already, in the unit of the caller: what each says is given. Returns for
 * each its message, or why there is none: somebody declined meanwhile, or a limit is reached.
 */
export async function queueBroadcast(
  ctx: AppContext,
  unit: Unit,
  drafts: readonly Draft[],
  at: number,
): Promise<(MessageRow | OperationError)[]> {
  const refused = new Map<Draft, OperationError>(await declinedAmong(unit, drafts));
  const [accounts, numbers, organisation] = await Promise.all([
    unit.accounts.all(),
    unit.numbers.all(),
    readOrganisation(unit),
  ]);
  const known = { prices: await pricesOf(ctx, unit, accounts), home: homeOf(numbers, organisation) };
  const allowed = drafts.filter((draft) => !refused.has(draft));
  const going = await withinLimits(unit, known, allowed, at, (draft, refusal) => refused.set(draft, refusal));
  const messages = await queueTexts(unit, going, at);
  const queued = new Map(going.map(({ order }, index) => [order, messages[index] as MessageRow]));
  return drafts.map((draft) => refused.get(draft) ?? (queued.get(draft.order) as MessageRow));
}

/** Messages, their first events and outbox entries, each kind in one statement. Returns in the order of the drafts. */
async function queueTexts(unit: Unit, drafts: readonly Draft[], at: number): Promise<MessageRow[]> {
  if (drafts.length === 0) return [];
  const threads = await threadsFor(
    unit,
    drafts.map(({ recipient, channel }) => ({ address: recipient, channel })),
    { at, source: 'sent' },
  );
  const messages = drafts.map(({ order, channel, recipient, said, subject }) => {
    const thread = threads.get(threadKey(recipient, channel));
    if (!thread) throw new Error('A thread was asked for and not made');
    return { ...outboundRow(order, said, channel, recipient, thread, at), subject };
  });
  const watched = await watchFirstWays(unit, drafts, messages);
  await unit.messages.insert(messages);
  await unit.fallbacks.insert(watched);
  const codes = new Set(drafts.flatMap(({ order }, index) => (carriesCode(order) ? [messages[index]?.id] : [])));
  const held = new Map(drafts.flatMap((draft, index) => (draft.held ? [[messages[index]?.id ?? '', draft.held]] : [])));
  await unit.events.insert(
    messages.map((message) => ({
      message_id: message.id,
      kind: 'queued' as const,
      at,
      recorded_at: at,
      attempt: 0,
      cause: null,
      detail: { by: message.origin_name },
      exchange_id: null,
      inbound_request_id: null,
    })),
  );
  await unit.outbox.insert(
    messages.map((message) => ({
      message_id: message.id,
      channel_id: message.channel_id,
      priority: codes.has(message.id) ? CODE_PRIORITY : priorityOf(message),
      state: held.has(message.id) ? ('aside' as const) : ('due' as const),
      due_at: at,
      attempts: 0,
      first_attempt_at: null,
      lease_owner: null,
      leased_at: null,
      failures: 0,
      tried_with: null,
    })),
  );
  // What goes to many stays out of the list people work through, until somebody answers.
  const toOne = messages.filter(({ origin_kind }) => origin_kind !== 'broadcast');
  for (const [id, group] of groupBy(toOne, (message) => message.conversation_id)) {
    const last = group.at(-1) as MessageRow;
    await unit.conversations.change(
      { id },
      {
        last_message_at: at,
        last_text: inOneLine(last).slice(0, 160),
        last_direction: 'out',
        // What a person writes is work; what goes out by itself is none until somebody answers.
        ...(last.origin_kind === 'user' ? { state: 'waiting' as const, closed_at: null, idle_noticed_at: null } : {}),
      },
    );
    // Where they wrote is where the conversation is; until they do, it is where we wrote.
    await unit.conversations.change({ id, last_inbound_at: null }, { channel_id: last.channel_id });
  }
  for (const [id, reason] of held) await noteSetAside(unit, 'sends', id, reason, at);
  await noteMessages(unit, at, messages);
  return messages;
}

const priorityOf = ({ origin_kind }: MessageRow): number =>
  origin_kind === 'broadcast' ? BULK_PRIORITY : REPLY_PRIORITY;

function outboundRow(
  { actor, input, consent, insteadOf }: Order,
  { text, template, choices }: Saying,
  channel: ChannelRow,
  recipient: string,
  thread: { contactId: string; conversationId: string },
  at: number,
): MessageRow {
  const measure = measureText(text);
  return {
    id: newId('msg', at),
    direction: 'out',
    conversation_id: thread.conversationId,
    contact_id: thread.contactId,
    channel_id: channel.id,
    sender: channel.address,
    recipient,
    text,
    media: input.media ?? null,
    tags: input.tags?.length ? input.tags : null,
    template: template ?? null,
    choices: choices ?? null,
    encoding: measure.encoding,
    parts: measure.parts.length,
    ...standingColumns(standingAfter({ kind: 'queued', at })),
    provider_message_id: null,
    price_micros: null,
    price_currency: null,
    ...(insteadOf ? originOf(insteadOf.message) : originOfActor(actor, consent)),
    in_reply_to: input.inReplyTo ?? null,
    subject: null,
    automatic: null,
    files: null,
    valid_until: input.validUntil ?? null,
    fallback_to: null,
    instead_of: insteadOf?.message.id ?? null,
    continued_by: null,
    inbound_request_id: null,
    created_at: at,
  };
}

type Origin = Pick<MessageRow, 'origin_kind' | 'origin_id' | 'origin_name'>;

const originOf = ({ origin_kind, origin_id, origin_name }: MessageRow): Origin => ({
  origin_kind,
  origin_id,
  origin_name,
});

function originOfActor(actor: Actor, consent: true | undefined): Origin {
  const own = actor.kind === 'app' || actor.kind === 'route' || actor.kind === 'broadcast';
  const kind = consent ? 'consent' : own ? actor.kind : 'user';
  return { origin_kind: kind, origin_id: actor.id, origin_name: actor.name };
}
