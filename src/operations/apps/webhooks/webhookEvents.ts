/** Puts events for the apps that asked for them into the delivery queue, inside the unit that caused them. */
import { answerIn } from '../../../core/api/versions';
import { cause } from '../../../core/delivery/causes';
import type { MessageState } from '../../../core/delivery/lifecycle';
import { publishedRemedy } from '../../../core/remedy';
import { newId } from '../../../store/ids';
import type { MessageRow, WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { noteChanges, reachedMessages, reachOf, reachValues, seesEverything } from '../../context';

export const EVENT_TYPES = ['windgap.message.received', 'windgap.message.state'] as const;
export type EventType = (typeof EVENT_TYPES)[number];
/** States that apps are told of, in the order in which they come; the steps in between are on the trail. */
export const TOLD_STATES: readonly MessageState[] = ['sent', 'delivered', 'read', 'failed', 'uncertain'];
/** Sent by hand to one subscription, whatever it subscribed to. */
export const TEST_EVENT = 'windgap.test';

/**
 * One CloudEvent (CloudEvents 1.0 §3, JSON format) for each message and each
 * subscription to this type. With `appIds`, only those apps: the route decides who gets
 * what came in, while states go to every app that asked.
 */
export async function emitMessageEvents(
  unit: Unit,
  type: EventType,
  messages: readonly MessageRow[],
  at: number,
  appIds?: readonly string[],
): Promise<void> {
  if (messages.length === 0) return;
  if (appIds) await noteTold(unit, messages, appIds);
  const subscriptions = (await standing(unit, type)).filter(
    (subscription) => subscription.events.includes(type) && (!appIds || appIds.includes(subscription.app_id)),
  );
  if (subscriptions.length === 0) return;
  const kept = await keptToTeams(unit, subscriptions, messages);
  const deliveries = messages.flatMap((message) =>
    subscriptions
      .filter((subscription) => lets(subscription, type, message, kept))
      .map((subscription) => deliveryOf(subscription, eventFor(type, message, at), at, message)),
  );
  if (deliveries.length === 0) return;
  await unit.deliveries.insert(deliveries);
  await noteChanges(
    unit,
    at,
    deliveries.map((delivery) => ['delivery', delivery.subscription_id] as const),
  );
}

/**
 * Subscriptions that have not ended. One that cannot be read stops no message from coming in; what it wants is not known
 * then, and it is kept everything, as what is not kept is lost. It is paused where its events are claimed.
 */
async function standing(unit: Unit, type: EventType): Promise<WebhookSubscriptionRow[]> {
  const rows = await unit.select<WebhookSubscriptionRow>(
    'SELECT * FROM webhook_subscriptions WHERE disabled_at IS NULL',
  );
  return rows.map((row) => unit.subscriptions.readOr(row, { events: [type], filter: {} }));
}

/** An app that is told of a message may see it from then on. */
async function noteTold(unit: Unit, messages: readonly MessageRow[], appIds: readonly string[]): Promise<void> {
  const told = appIds.flatMap((app_id) => messages.map(({ id }) => [app_id, id]));
  await unit.execute(
    'INSERT OR IGNORE INTO told_apps (app_id, message_id) SELECT value->>0, value->>1 FROM json_each(:told)',
    { told: JSON.stringify(told) },
  );
}

/** By app, the messages that a team keeps to its members and that an app asking for those of all apps is not told of. */
async function keptToTeams(
  unit: Unit,
  subscriptions: readonly WebhookSubscriptionRow[],
  messages: readonly MessageRow[],
): Promise<ReadonlyMap<string, ReadonlySet<string>>> {
  const kept = new Map<string, ReadonlySet<string>>();
  for (const id of new Set(subscriptions.flatMap(({ app_id, filter }) => (filter.allApps ? [app_id] : [])))) {
    const reach = await reachOf(unit, { kind: 'app', id, name: '', keyId: '', scopes: ['messages:all'] });
    if (seesEverything(reach)) continue;
    const rows = await unit.select<{ id: string }>(
      `SELECT m.id FROM messages m JOIN json_each(:ids) j ON j.value = m.id WHERE NOT ${reachedMessages(reach, 'm')}`,
      { ids: JSON.stringify(messages.map((message) => message.id)), ...reachValues(reach) },
    );
    kept.set(id, new Set(rows.map((row) => row.id)));
  }
  return kept;
}

function lets(
  { app_id, filter }: WebhookSubscriptionRow,
  type: EventType,
  message: MessageRow,
  kept: ReadonlyMap<string, ReadonlySet<string>>,
): boolean {
  const { channels, states, allApps } = filter;
  if (channels && !channels.includes(message.channel_id)) return false;
  // What came in goes where the route says; what becomes of a message is its sender's.
  const own = message.origin_kind === 'app' && message.origin_id === app_id;
  if (type === 'windgap.message.state' && !own && (!allApps || kept.get(app_id)?.has(message.id))) return false;
  return type !== 'windgap.message.state' || !states || states.includes(message.state);
}

/** Queues an event that means nothing. Returns the delivery's id. */
export async function queueTestEvent(
  unit: Unit,
  subscription: WebhookSubscriptionRow,
  by: string,
  at: number,
): Promise<string> {
  const id = newId('evt', at);
  const data = { note: 'A test by hand: the event reached you and nothing else happened.', by };
  const event = { ...envelope(id, TEST_EVENT, `/subscriptions/${subscription.id}`, subscription.id, at), data };
  const delivery = deliveryOf(subscription, event, at);
  await unit.deliveries.insert([delivery]);
  await noteChanges(unit, at, [['delivery', subscription.id]]);
  return delivery.id;
}

function deliveryOf(
  subscription: WebhookSubscriptionRow,
  event: CloudEventJson,
  at: number,
  message?: MessageRow,
): WebhookDeliveryRow {
  return {
    id: newId('dlv', at),
    subscription_id: subscription.id,
    event_id: event.id,
    event_type: event.type,
    message_id: message?.id ?? null,
    // Events of one conversation reach an app in the order in which they happened.
    ordering_key: message?.conversation_id ?? event.id,
    body: JSON.stringify(answerIn(subscription.api_version, event)),
    state: 'due',
    cause: null,
    attempts: 0,
    first_attempt_at: null,
    due_at: at,
    lease_owner: null,
    leased_at: null,
    last_status: null,
    created_at: at,
    delivered_at: null,
  };
}

interface CloudEventJson {
  specversion: '1.0';
  id: string;
  source: string;
  type: EventType | typeof TEST_EVENT;
  subject: string;
  time: string;
  datacontenttype: 'application/json';
  data: Record<string, unknown>;
}

function eventFor(type: EventType, message: MessageRow, at: number): CloudEventJson {
  const id = newId('evt', at);
  return { ...envelope(id, type, `/channels/${message.channel_id}`, message.id, at), data: messageData(message) };
}

/** An event as an app would get it, to be read before the first one comes. */
export function sampleEvent(type: EventType): CloudEventJson {
  const at = Date.UTC(2026, 4, 4, 10);
  const received = type === 'windgap.message.received';
  const ours = '+442079460114';
  const theirs = '+447700900123';
  const id = 'msg_01JD0V7M3T8Q4W5X6Y7Z8A9B0C';
  const data: ReturnType<typeof messageData> = {
    id,
    direction: received ? 'inbound' : 'outbound',
    channelId: 'chn_01JD0V7M3T8Q4W5X6Y7Z8A9B0C',
    conversationId: 'cnv_01JD0V7M3T8Q4W5X6Y7Z8A9B0C',
    contactId: 'con_01JD0V7M3T8Q4W5X6Y7Z8A9B0C',
    from: received ? theirs : ours,
    to: received ? ours : theirs,
    text: received ? 'BOOK Tuesday 14:20' : 'Your booking at 14:20 is confirmed.',
    media: null,
    files: [],
    choices: [],
    subject: null,
    automatic: false,
    encoding: 'GSM-7',
    parts: 1,
    state: received ? 'received' : 'delivered',
    stateAt: new Date(at).toISOString(),
    cause: null,
    inReplyTo: null,
    insteadOf: null,
    fallback: null,
    tags: received ? [] : ['passage'],
    createdAt: new Date(at).toISOString(),
  };
  return { ...envelope('evt_01JD0V7M3T8Q4W5X6Y7Z8A9B0C', type, `/channels/${data.channelId}`, id, at), data };
}

function envelope<Type extends CloudEventJson['type']>(
  id: string,
  type: Type,
  source: string,
  subject: string,
  at: number,
) {
  return {
    specversion: '1.0' as const,
    id,
    source,
    type,
    subject,
    time: new Date(at).toISOString(),
    datacontenttype: 'application/json' as const,
  };
}

/** The second way of a message that has not arrived: the channel, and the message that goes over it once there is one. */
function fallbackData({ fallback_to, continued_by, state }: MessageRow) {
  if (fallback_to === null || (continued_by === null && (state === 'delivered' || state === 'read'))) return null;
  return { channelId: fallback_to, messageId: continued_by };
}

/** How apps see a message, in webhooks and in the API alike. Times are ISO 8601. */
export function messageData(message: MessageRow) {
  return {
    id: message.id,
    direction: message.direction === 'in' ? ('inbound' as const) : ('outbound' as const),
    channelId: message.channel_id,
    conversationId: message.conversation_id,
    contactId: message.contact_id,
    from: message.sender,
    to: message.recipient,
    text: message.text,
    media: message.media,
    files: (message.files ?? []).map(({ name, type, bytes, url }) => ({ name, type, bytes, url: url ?? null })),
    choices: message.choices?.labels ?? [],
    subject: message.subject,
    automatic: message.automatic !== null,
    encoding: message.encoding,
    parts: message.parts,
    state: message.state,
    stateAt: new Date(message.state_at).toISOString(),
    cause: message.cause
      ? { code: message.cause, title: cause(message.cause).title, ...publishedRemedy(cause(message.cause).remedy) }
      : null,
    inReplyTo: message.in_reply_to,
    insteadOf: message.instead_of,
    fallback: fallbackData(message),
    tags: message.tags ?? [],
    createdAt: new Date(message.created_at).toISOString(),
  };
}
