/** Rows of the past as live traffic would have left them: requests, answers, deliveries and events of a message. */
import { createHmac } from 'node:crypto';
import type { CauseCode } from '../src/core/delivery/causes';
import { standingAfter } from '../src/core/delivery/lifecycle';
import { messageData } from '../src/operations/apps/webhooks/webhookEvents';
import { standingColumns } from '../src/operations/messages/messageEvents';
import { pastId } from '../src/store/ids';
import type {
  ChannelRow,
  ExchangeRow,
  InboundRequestRow,
  MessageEventRow,
  MessageRow,
  WebhookDeliveryRow,
} from '../src/store/schema/rows';

export interface HistoryPlaces {
  harbour: ChannelRow;
  locks: ChannelRow;
  accountName: string;
  /** Signs what the provider posts, as Brackwater does. */
  secret: string;
  app: { id: string; name: string; subscriptionId: string; url: string };
  agent: { id: string; name: string };
  route: string;
}

/** What is written all at once in the end. */
export interface Pile {
  messages: MessageRow[];
  events: MessageEventRow[];
  requests: InboundRequestRow[];
  exchanges: ExchangeRow[];
  deliveries: WebhookDeliveryRow[];
}

export function postedRequest(
  places: HistoryPlaces,
  channel: ChannelRow,
  at: number,
  content: object,
  below = '',
): InboundRequestRow {
  const body = JSON.stringify(content);
  const time = String(Math.floor(at / 1000));
  const signature = `h1=${createHmac('sha256', places.secret).update(`${time}.${body}`).digest('hex')}`;
  return {
    id: pastId('inb', at),
    channel_id: channel.id,
    account_id: null,
    received_at: Math.round(at),
    method: 'POST',
    path: `/in/${channel.inbound_token}${below}`,
    query: '',
    headers: { 'content-type': 'application/json', 'x-brackwater-time': time, 'x-brackwater-signature': signature },
    body: Buffer.from(body),
    remote_address: '127.0.0.1',
    signature: 'valid',
    answer_status: 202,
    state: 'done',
    cause: null,
    outcome: null,
    processed_at: Math.round(at) + 12,
  };
}

export function tellApp(
  pile: Pile,
  places: HistoryPlaces,
  message: MessageRow,
  type: string,
  at: number,
  stumbles: boolean,
): void {
  const id = pastId('dlv', at);
  const eventId = pastId('evt', at);
  const time = new Date(at).toISOString();
  const source = `/channels/${message.channel_id}`;
  const envelope = {
    specversion: '1.0',
    id: eventId,
    source,
    type,
    subject: message.id,
    time,
    datacontenttype: 'application/json',
  };
  const body = JSON.stringify({ ...envelope, data: messageData(message) });
  const attempts = stumbles
    ? [
        { at, status: 500 },
        { at: at + 2300, status: 204 },
      ]
    : [{ at, status: 204 }];
  for (const attempt of attempts) {
    pile.exchanges.push({
      id: pastId('exc', attempt.at),
      purpose: 'webhook',
      subject_id: id,
      at: Math.round(attempt.at),
      elapsed_ms: 11,
      request: {
        method: 'POST',
        url: places.app.url,
        headers: { 'content-type': 'application/cloudevents+json; charset=utf-8', 'webhook-id': eventId },
        body,
      },
      response: { status: attempt.status, headers: {}, body: '' },
      cause: attempt.status === 500 ? 'app-error' : null,
    });
  }
  const last = attempts.at(-1) ?? { at, status: 204 };
  pile.deliveries.push({
    id,
    subscription_id: places.app.subscriptionId,
    event_id: eventId,
    event_type: type,
    message_id: message.id,
    ordering_key: message.conversation_id,
    body,
    state: 'delivered',
    cause: null,
    attempts: attempts.length,
    first_attempt_at: Math.round(at),
    due_at: Math.round(last.at),
    lease_owner: null,
    leased_at: null,
    last_status: last.status,
    created_at: Math.round(at),
    delivered_at: Math.round(last.at) + 11,
  });
}

export function sendExchange(
  message: MessageRow,
  channel: ChannelRow,
  at: number,
  answer: { status: number; body: object } | null,
  cause: CauseCode | null = null,
): ExchangeRow {
  const body = {
    from: message.sender,
    to: message.recipient,
    text: message.text,
    reference: message.id,
    report_to: `…/in/${channel.inbound_token.slice(0, 12)}…/receipts`,
  };
  return {
    id: pastId('exc', at),
    purpose: 'send',
    subject_id: message.id,
    at: Math.round(at),
    elapsed_ms: answer ? 48 : 2,
    request: {
      method: 'POST',
      url: 'http://127.0.0.1:4310/v2/texts',
      headers: { 'content-type': 'application/json', authorization: '••••••' },
      body: JSON.stringify(body),
    },
    response: answer && {
      status: answer.status,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(answer.body),
    },
    cause,
  };
}

export function blankMessage(
  channel: ChannelRow,
  thread: { contactId: string; conversationId: string },
  text: string,
  at: number,
) {
  return {
    id: pastId('msg', at),
    conversation_id: thread.conversationId,
    contact_id: thread.contactId,
    channel_id: channel.id,
    text,
    media: null,
    tags: null,
    template: null,
    subject: null,
    automatic: null,
    files: null,
    valid_until: null,
    fallback_to: null,
    instead_of: null,
    continued_by: null,
    choices: null,
    ...standingColumns(standingAfter({ kind: 'queued', at })),
    provider_message_id: null,
    price_micros: null,
    price_currency: null,
    origin_id: null,
    origin_name: null,
    in_reply_to: null,
    inbound_request_id: null,
    created_at: at,
  };
}

export function event(
  message: { id: string },
  kind: MessageEventRow['kind'],
  at: number,
  more: Partial<MessageEventRow> = {},
): MessageEventRow {
  const whole = Math.round(at);
  return {
    message_id: message.id,
    kind,
    at: whole,
    recorded_at: whole,
    attempt: null,
    cause: null,
    detail: null,
    exchange_id: null,
    inbound_request_id: null,
    ...more,
  };
}
