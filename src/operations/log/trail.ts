/** Gathers the facts of a message's way from the store and lets the core lay them out as hops. */

import { displayAddress } from '../../core/addresses/display';
import { channelKind } from '../../core/connect/channelKinds';
import { accountAt } from '../../core/connect/numberMove';
import type { TrailDelivery } from '../../core/trail/delivery';
import type { EvidenceRef, TrailHop } from '../../core/trail/hop';
import { inboundTrail } from '../../core/trail/inbound';
import { type FallbackFacts, outboundTrail, type TrailEvent } from '../../core/trail/outbound';
import type { MessageTemplate } from '../../store/schema/composeRows';
import type {
  ChannelRow,
  InboundRequestRow,
  MessageEventRow,
  MessageRow,
  ProviderAccountRow,
} from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  asView,
  type EvidenceView,
  found,
  reachedMessages,
  reachOf,
  reachValues,
  requireReached,
  requireReachedMessage,
  requireRole,
  seesEverything,
  type View,
  viewExchange,
  viewRequest,
} from '../context';
import { routingFacts } from '../routing';

/** A message as the page of its way gets it. */
export interface TrailMessage extends Omit<View<MessageRow>, 'template'> {
  template: View<MessageTemplate> | null;
}

export interface TrailLeg {
  message: TrailMessage;
  hops: TrailHop[];
}

export interface TrailView {
  /** The message asked for. */
  message: TrailMessage;
  contactName: string;
  /** The message it answers, itself and what answers it, in order. */
  legs: TrailLeg[];
  evidence: Record<string, EvidenceView>;
  /** Names of the templates the messages were made of, by id. */
  templates: Record<string, string>;
}

export async function getTrail(ctx: AppContext, actor: Actor, messageId: string): Promise<TrailView> {
  requireRole(actor, 'viewer');
  const message = found(await ctx.store.messages.one({ id: messageId }), 'message');
  await requireReachedMessage(ctx.store, actor, messageId);
  const first = await firstWayOf(ctx, message);
  // What came in begins its own trail, whatever it answers.
  const root =
    first.in_reply_to && first.direction === 'out' ? await ctx.store.messages.one({ id: first.in_reply_to }) : first;
  const answers = await ctx.store.messages.all(
    { in_reply_to: (root ?? message).id },
    { order: [['id', 'ASC']], limit: 10 },
  );
  const around = [...(root ? [root] : []), ...answers.filter((answer) => answer.id !== root?.id)];
  const chain = await reachedOf(ctx, actor, await withSecondWays(ctx, around));
  if (!chain.some((entry) => entry.id === message.id)) chain.push(message);
  const legs = await Promise.all(
    chain.map(async (entry) => ({ message: viewMessage(entry), hops: await hopsOf(ctx, entry) })),
  );
  const contact = await ctx.store.contacts.one({ id: message.contact_id });
  const person = message.direction === 'in' ? message.sender : message.recipient;
  const templates = await ctx.store.templates.allBy(
    'id',
    chain.flatMap(({ template }) => template?.id ?? []),
  );
  return {
    message: viewMessage(message),
    templates: Object.fromEntries(templates.map(({ id, name }) => [id, name])),
    contactName: contact?.name ?? displayAddress(person),
    legs,
    evidence: await readEvidence(
      ctx,
      legs.flatMap((leg) => leg.hops.flatMap((hop) => hop.evidence)),
    ),
  };
}

/** The message a second way began with. */
async function firstWayOf(ctx: AppContext, message: MessageRow): Promise<MessageRow> {
  let first = message;
  while (first.instead_of !== null) {
    const before = await ctx.store.messages.one({ id: first.instead_of });
    if (!before) return first;
    first = before;
  }
  return first;
}

/** Each message followed by its second way, and that by its own. */
async function withSecondWays(ctx: AppContext, messages: readonly MessageRow[]): Promise<MessageRow[]> {
  const chain = new Map<string, MessageRow>();
  const known = new Map(messages.map((message) => [message.id, message]));
  const isContinuation = new Set(messages.flatMap(({ continued_by }) => continued_by ?? []));
  for (const message of messages.filter(({ id }) => !isContinuation.has(id)))
    for (let one: MessageRow | undefined = message; one && !chain.has(one.id); ) {
      chain.set(one.id, one);
      const next: string | null = one.continued_by;
      one = next === null ? undefined : (known.get(next) ?? (await ctx.store.messages.one({ id: next })));
    }
  return [...chain.values()];
}

/** Those of several messages that are for whoever looks. */
async function reachedOf(ctx: AppContext, actor: Actor, messages: MessageRow[]): Promise<MessageRow[]> {
  const reach = await reachOf(ctx.store, actor);
  if (seesEverything(reach) || messages.length === 0) return messages;
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT m.id FROM messages m WHERE m.id IN (:ids) AND ${reachedMessages(reach, 'm')}`,
    { ids: messages.map(({ id }) => id), ...reachValues(reach) },
  );
  const seen = new Set(rows.map(({ id }) => id));
  return messages.filter(({ id }) => seen.has(id));
}

function viewMessage(message: MessageRow): TrailMessage {
  return { ...asView(message), template: message.template && asView(message.template) };
}

async function hopsOf(ctx: AppContext, message: MessageRow): Promise<TrailHop[]> {
  const channel = found(await ctx.store.channels.one({ id: message.channel_id }), 'channel');
  const moves = await ctx.store.numberMoves.all({ channel_id: channel.id }, { order: [['id', 'ASC']] });
  const [account, contact, events, deliveries] = await Promise.all([
    // Whoever carried the number then, which may have moved since.
    ctx.store.accounts.one({ id: accountAt(channel.account_id, moves, message.created_at) }),
    ctx.store.contacts.one({ id: message.contact_id }),
    ctx.store.events.all({ message_id: message.id }, { order: [['id', 'ASC']] }),
    deliveriesOf(ctx, message.id),
  ]);
  const common = {
    providerName: account?.name ?? 'the provider',
    channelName: channel.name,
    from: displayAddress(message.sender),
    to: displayAddress(message.recipient),
    ends: channelKind(channel.kind).ends,
    deliveries,
  };
  if (message.direction === 'out') {
    return outboundTrail({
      ...common,
      id: message.id,
      origin: { kind: message.origin_kind, name: message.origin_name ?? 'Windgap' },
      createdAt: message.created_at,
      parts: message.parts,
      encoding: message.encoding,
      noReceipts: noReceiptsOf(ctx, channel, account),
      events: events.map(toTrailEvent),
      fallback: await fallbackFacts(ctx, message.id),
    });
  }
  const request = message.inbound_request_id
    ? await ctx.store.inbound.one({ id: message.inbound_request_id })
    : undefined;
  const received = events.find((event) => event.kind === 'received')?.detail as {
    sentAt?: number;
    from?: string;
  } | null;
  return inboundTrail({
    ...common,
    sentAt: received?.sentAt ?? undefined,
    receivedAt: message.created_at,
    processedAt: request?.processed_at ?? events[0]?.recorded_at,
    signature: request?.signature ?? 'not-used',
    refusedWith: request && request.answer_status >= 400 ? request.answer_status : undefined,
    inboundRequestId: request?.id,
    viaFallback: request?.path.endsWith('/fallback') ?? false,
    writtenFrom: received?.from,
    contactName: contact?.name ?? displayAddress(message.sender),
    routing: await routingFacts(ctx, message.id),
    repeats: request ? await countRepeats(ctx, message, request) : 0,
  });
}

/** Why no receipt can come over a channel; undefined where they do. */
function noReceiptsOf(ctx: AppContext, { kind }: ChannelRow, account: ProviderAccountRow | undefined) {
  const given =
    !account || !ctx.connectors.has(account.connector) || ctx.connectors.get(account.connector).givesReceipts;
  return given ? undefined : channelKind(kind).noReceipts;
}

async function fallbackFacts(ctx: AppContext, message_id: string): Promise<FallbackFacts | undefined> {
  const row = await ctx.store.fallbacks.one({ message_id });
  if (!row) return undefined;
  const over = (await ctx.store.channels.one({ id: row.to_id }))?.name ?? 'a channel that is gone';
  return {
    over,
    state: row.state,
    said: row.said ?? undefined,
    at: row.decided_at ?? undefined,
    until: row.first_until ?? undefined,
  };
}

/** The same text posted again shows as other requests of the channel whose outcome is only a repeat. */
async function countRepeats(ctx: AppContext, message: MessageRow, request: InboundRequestRow): Promise<number> {
  const [row] = await ctx.store.select<{ n: number }>(
    `SELECT count(*) AS n FROM inbound_requests WHERE channel_id = :channel AND id > :id AND received_at < :until
       AND state = 'done' AND json_extract(outcome, '$.repeats') > 0 AND instr(CAST(body AS TEXT), :providerId) > 0`,
    {
      channel: message.channel_id,
      id: request.id,
      until: request.received_at + 24 * 3600_000,
      providerId: message.provider_message_id ?? '-',
    },
  );
  return row?.n ?? 0;
}

function toTrailEvent(row: MessageEventRow): TrailEvent {
  const detail = (row.detail ?? {}) as { said?: string; by?: string; nextAttemptAt?: number; receivedAt?: number };
  return {
    kind: row.kind,
    at: row.at,
    cameAt: row.inbound_request_id ? (detail.receivedAt ?? row.recorded_at) : undefined,
    attempt: row.attempt ?? undefined,
    cause: row.cause ?? undefined,
    said: detail.said ?? undefined,
    by: detail.by,
    nextAttemptAt: detail.nextAttemptAt,
    exchangeId: row.exchange_id ?? undefined,
    inboundRequestId: row.inbound_request_id ?? undefined,
  };
}

async function deliveriesOf(ctx: AppContext, messageId: string): Promise<TrailDelivery[]> {
  const deliveries = await ctx.store.deliveries.all({ message_id: messageId }, { order: [['id', 'ASC']] });
  if (deliveries.length === 0) return [];
  const [subscriptions, apps, attempts] = await Promise.all([
    ctx.store.subscriptions.all(),
    ctx.store.apps.all(),
    ctx.store.exchanges.all({ subject_id: deliveries.map((delivery) => delivery.id) }, { order: [['id', 'ASC']] }),
  ]);
  return deliveries.map((delivery) => {
    const subscription = subscriptions.find((row) => row.id === delivery.subscription_id);
    const state = (JSON.parse(delivery.body) as { data?: { state?: string } }).data?.state;
    return {
      id: delivery.id,
      app: apps.find((app) => app.id === subscription?.app_id)?.name ?? 'an app',
      eventType: delivery.event_type.endsWith('.state') ? `${delivery.event_type} (${state})` : delivery.event_type,
      state: delivery.state,
      attempts: delivery.attempts,
      createdAt: delivery.created_at,
      deliveredAt: delivery.delivered_at ?? undefined,
      dueAt: delivery.due_at,
      cause: delivery.cause ?? undefined,
      lastStatus: delivery.last_status ?? undefined,
      exchangeIds: attempts.filter((attempt) => attempt.subject_id === delivery.id).map((attempt) => attempt.id),
    };
  });
}

async function readEvidence(ctx: AppContext, refs: readonly EvidenceRef[]): Promise<Record<string, EvidenceView>> {
  const of = (kind: EvidenceRef['kind']) => refs.filter((ref) => ref.kind === kind).map((ref) => ref.id);
  const [exchanges, requests] = await Promise.all([
    ctx.store.exchanges.all({ id: of('exchange') }),
    ctx.store.inbound.all({ id: of('inbound-request') }),
  ]);
  const delivered = exchanges.filter(({ purpose }) => purpose === 'webhook').map(({ subject_id }) => subject_id);
  const bodies = new Map(
    (await ctx.store.deliveries.allBy('id', delivered, ['id', 'body'])).map((row) => [row.id, row.body]),
  );
  const views = exchanges.map((exchange) => viewExchange(exchange, bodies.get(exchange.subject_id)));
  return Object.fromEntries([...views, ...requests.map(viewRequest)].map((view) => [view.id, view]));
}

export async function getInboundRequest(ctx: AppContext, actor: Actor, id: string) {
  requireRole(actor, 'viewer');
  const request = found(await ctx.store.inbound.one({ id }), 'request');
  await requireReached(ctx.store, actor, 'channel', request.channel_id);
  const channel = await ctx.store.channels.one({ id: request.channel_id });
  return { request: asView(request), evidence: viewRequest(request), channelName: channel?.name ?? 'a channel' };
}
