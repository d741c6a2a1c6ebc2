/** Puts events for the apps that asked for them into the delivery queue, inside the unit that caused them. */
import { answerIn } from '../../../core/api/versions';
import { cause } from '../../../core/delivery/causes';
import type { MessageState } from '../../../core/delivery/lifecycle';
import { publishedRemedy } from '../../../core/remedy';
import { newId } from '../../../store/ids';
import type { BroadcastRow, MessageRow, WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { noteChanges, reachedMessages, reachesContent, reachOf, reachValues, seesEverything } from '../../context';

/** What a subscription that names none is told of. */
export const MESSAGE_EVENTS = ['windgap.message.received', 'windgap.message.state'] as const;
export const BROADCAST_EVENTS = [
  'windgap.broadcast.started',
  'windgap.broadcast.held',
  'windgap.broadcast.finished',
] as const;
export const ALERT_EVENTS = ['windgap.alert.began', 'windgap.alert.escalated', 'windgap.alert.ended'] as const;
export const EVENT_TYPES = [...MESSAGE_EVENTS, ...BROADCAST_EVENTS, ...ALERT_EVENTS] as const;
export type MessageEventType = (typeof MESSAGE_EVENTS)[number];
export type BroadcastEventType = (typeof BROADCAST_EVENTS)[number];
export type AlertEventType = (typeof ALERT_EVENTS)[number];
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
  type: MessageEventType,
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
  const [kept, ordered] = await Promise.all([
    keptToTeams(unit, subscriptions, messages),
    type === 'windgap.message.state' ? orderedBy(unit, messages) : new Map<string, string>(),
  ]);
  const deliveries = messages.flatMap((message) =>
    subscriptions
      .filter((subscription) => lets(subscription, type, message, kept, ordered))
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
export async function noteTold(
  unit: Unit,
  messages: readonly Pick<MessageRow, 'id'>[],
  appIds: readonly string[],
): Promise<void> {
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

/** Who made the broadcasts that messages are of. */
async function orderedBy(unit: Unit, messages: readonly MessageRow[]): Promise<ReadonlyMap<string, string>> {
  const ids = messages.flatMap((each) => (each.origin_kind === 'broadcast' && each.origin_id ? [each.origin_id] : []));
  const rows = await unit.broadcasts.allBy('id', [...new Set(ids)], ['id', 'created_by']);
  return new Map(rows.map(({ id, created_by }) => [id, created_by]));
}

function lets(
  { app_id, filter }: WebhookSubscriptionRow,
  type: MessageEventType,
  message: MessageRow,
  kept: ReadonlyMap<string, ReadonlySet<string>>,
  ordered: ReadonlyMap<string, string>,
): boolean {
  const { channels, states, allApps } = filter;
  if (channels && !channels.includes(message.channel_id)) return false;
  // What came in goes where the route says; what becomes of a message is its sender's.
  const own =
    message.origin_kind === 'broadcast'
      ? ordered.get(message.origin_id ?? '') === app_id
      : message.origin_kind === 'app' && message.origin_id === app_id;
  if (type === 'windgap.message.state' && !own && (!allApps || kept.get(app_id)?.has(message.id))) return false;
  return type !== 'windgap.message.state' || !states || states.includes(message.state);
}

/** Tells the app that ordered a broadcast where it stands, and those that are told of everybody's. */
export async function emitBroadcastEvent(
  unit: Unit,
  type: BroadcastEventType,
  broadcast: Pick<BroadcastRow, 'id' | 'name' | 'state' | 'created_by' | 'definition' | 'held'>,
  at: number,
): Promise<void> {
  const subscriptions = (await standing(unit, type)).filter(({ events }) => events.includes(type));
  if (subscriptions.length === 0) return;
  const counts = await unit.broadcastCounts.all({ broadcast_id: broadcast.id });
  const event = {
    ...envelope(newId('evt', at), type, `/broadcasts/${broadcast.id}`, broadcast.id, at),
    data: broadcastData(broadcast, counts),
  };
  const told: WebhookDeliveryRow[] = [];
  for (const subscription of subscriptions)
    if (await isToldOf(unit, subscription, broadcast)) told.push(deliveryOf(subscription, event, at));
  await unit.deliveries.insert(told);
  await noteChanges(
    unit,
    at,
    told.map((delivery) => ['delivery', delivery.subscription_id] as const),
  );
}

/** What an app is told of an alert. */
export interface AlertToldOf {
  id: number;
  code: string;
  severity: string;
  subject: string;
  problem: string;
  remedy: string;
  began: number;
  ended?: number;
  takenBy?: string;
}

/** Tells one app of an alert, where it asked for such events. Returns whether it is told. */
export async function emitAlertEvent(
  unit: Unit,
  type: AlertEventType,
  appId: string,
  alerts: readonly AlertToldOf[],
  at: number,
): Promise<boolean> {
  const subscriptions = (await standing(unit, type)).filter(
    ({ events, app_id }) => app_id === appId && events.includes(type),
  );
  const told = subscriptions.flatMap((subscription) =>
    alerts.map((alert) => {
      const { id, began, ended, ...rest } = alert;
      const data = {
        id: String(id),
        ...rest,
        began: new Date(began).toISOString(),
        ended: ended === undefined ? null : new Date(ended).toISOString(),
        takenBy: alert.takenBy ?? null,
      };
      const event = { ...envelope(newId('evt', at), type, `/alerts/${id}`, String(id), at), data };
      return deliveryOf(subscription, event, at);
    }),
  );
  if (told.length === 0) return false;
  await unit.deliveries.insert(told);
  await noteChanges(
    unit,
    at,
    told.map((delivery) => ['delivery', delivery.subscription_id] as const),
  );
  return true;
}

async function isToldOf(
  unit: Unit,
  { app_id, filter }: WebhookSubscriptionRow,
  { created_by, definition }: Pick<BroadcastRow, 'created_by' | 'definition'>,
): Promise<boolean> {
  if (filter.channels && !definition.channels.some((id) => filter.channels?.includes(id))) return false;
  if (created_by === app_id) return true;
  if (!filter.allApps) return false;
  const reach = await reachOf(unit, { kind: 'app', id: app_id, name: '', keyId: '', scopes: ['messages:all'] });
  return reachesContent(reach, definition);
}

function broadcastData(
  { id, name, state, held }: Pick<BroadcastRow, 'id' | 'name' | 'state' | 'held'>,
  counts: readonly { state: string; n: number }[],
) {
  const of = (...states: string[]) => counts.reduce((sum, row) => sum + (states.includes(row.state) ? row.n : 0), 0);
  return {
    id,
    name,
    state,
    held: held && { code: held.code, problem: held.problem, ...publishedRemedy(held.remedy) },
    leftOut: of('left-out'),
    waiting: of('planned', 'queued', 'sending'),
    sent: of('sent'),
    delivered: of('delivered', 'read'),
    failed: of('failed'),
    uncertain: of('uncertain'),
  };
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

function eventFor(type: MessageEventType, message: MessageRow, at: number): CloudEventJson {
  const id = newId('evt', at);
  return { ...envelope(id, type, `/channels/${message.channel_id}`, message.id, at), data: messageData(message) };
}

/** An event as an app would get it, to be read before the first one comes. */
export function sampleEvent(type: EventType): CloudEventJson {
  const at = Date.UTC(2026, 4, 4, 10);
  if (isBroadcastEvent(type)) return sampleOfBroadcast(type, at);
  if (isAlertEvent(type)) return sampleOfAlert(type, at);
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

function isAlertEvent(type: EventType): type is AlertEventType {
  return (ALERT_EVENTS as readonly string[]).includes(type);
}

function sampleOfAlert(type: AlertEventType, at: number): CloudEventJson {
  const data = {
    id: '17',
    code: 'credit-gone',
    severity: 'error',
    subject: 'Main account',
    problem: 'The credit of Main account is used up.',
    remedy: 'Add credit at the provider; what waits is sent then.',
    began: new Date(at).toISOString(),
    ended: type === 'windgap.alert.ended' ? new Date(at + 600_000).toISOString() : null,
    takenBy: null,
  };
  return { ...envelope('evt_01JD0V7M3T8Q4W5X6Y7Z8A9B0C', type, '/alerts/17', '17', at), data };
}

function isBroadcastEvent(type: EventType): type is BroadcastEventType {
  return (BROADCAST_EVENTS as readonly string[]).includes(type);
}

function sampleOfBroadcast(type: BroadcastEventType, at: number): CloudEventJson {
  const id = 'bct_01JD0V7M3T8Q4W5X6Y7Z8A9B0C';
  const held = {
    code: 'failures' as const,
    problem: '9 of 50 failed, 18 %; it holds above 10 %.',
    remedy: 'Read below what they failed for. Resume when that is over, or cancel.',
    at,
    underWay: 0,
  };
  const row = {
    'windgap.broadcast.started': { state: 'running' as const, held: null },
    'windgap.broadcast.held': { state: 'held' as const, held },
    'windgap.broadcast.finished': { state: 'finished' as const, held: null },
  }[type];
  const counts = [
    { state: 'left-out', n: 12 },
    { state: type === 'windgap.broadcast.finished' ? 'delivered' : 'planned', n: 1192 },
  ];
  return {
    ...envelope('evt_01JD0V7M3T8Q4W5X6Y7Z8A9B0C', type, `/broadcasts/${id}`, id, at),
    data: broadcastData({ id, name: 'Stoppage at Tern', ...row }, counts),
  };
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
