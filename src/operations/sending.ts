/**
 * The way out, first half: a text is checked, stored and put into the outbox in one
 * unit. Requests that come together share a commit.
 */

import { createHash } from 'node:crypto';
import type { Connector } from '../connectors/connector';
import { type Address, normaliseAddress } from '../core/addresses/address';
import { countryName } from '../core/addresses/display';
import { predictRefusal } from '../core/connect/predict';
import { type ConsentWay, consentWay } from '../core/consent/ways';
import { cause } from '../core/delivery/causes';
import { standingAfter } from '../core/delivery/lifecycle';
import { inOneLine, type Media } from '../core/delivery/media';
import { groupBy } from '../core/groupBy';
import { measureText } from '../core/text/measure';
import { createBatcher } from '../store/batcher';
import { newId } from '../store/ids';
import type { ChannelRow, IdempotencyRow, MessageRow, ProviderAccountRow, ProviderNumberRow } from '../store/rows';
import type { Unit } from '../store/store';
import { type Actor, requireAccess, SYSTEM } from './actor';
import { noteMessages } from './changes';
import { type ConsentReply, declined } from './consents';
import { invalid, invalidText, isOperationError, OperationError } from './errors';
import { standingColumns } from './messageEvents';
import { syncProfiles } from './profiles';
import { readShelf, type TemplateChoice, type TemplateShelf, type TemplateText, textOf } from './templateTexts';
import { threadKey, threadsFor } from './threads';
import { messageData } from './webhookEvents';
import type { Windgap } from './windgap';

export interface SendInput {
  /** Any human form; without a country code the channel's country is assumed. */
  to?: string;
  /** Channel id or number to send from. Without it the conversation's channel, else the only one there is. */
  from?: string;
  /** May be empty when a file says it all, or when a template is to be sent. */
  text: string;
  template?: TemplateChoice;
  /** A file by its address, where the provider carries files. */
  media?: Media;
  /** Words to find the message by later. */
  tags?: string[];
  /** Message this answers; its sender is the recipient unless `to` says otherwise. */
  inReplyTo?: string;
}

export interface SendAnswer {
  status: number;
  message: ReturnType<typeof messageData>;
  /** The answer was given before, to the same idempotency key. */
  replayed: boolean;
}

interface Order {
  actor: Actor;
  input: SendInput;
  idempotencyKey?: string;
  /** The answer to an opt-out or opt-in word. */
  consent?: true;
}

type Ordered = SendAnswer | OperationError;

/** Longest text taken; how many parts a provider accepts is its own matter and shows in its answer. */
export const LONGEST_TEXT = 1600;

/** Replies of people and apps go before anything sent in bulk. */
const REPLY_PRIORITY = 10;

export type Sender = (actor: Actor, input: SendInput, idempotencyKey?: string) => Promise<SendAnswer>;

export function createSender(w: Windgap): Sender {
  const order = createBatcher<Order, Ordered>(async (orders) => {
    await syncProfiles(w);
    const results = await w.store.write((unit) => placeOrders(w, unit, orders));
    w.doorbell.ring('outbox');
    return results;
  }, 200);

  return async (actor, input, idempotencyKey) => {
    requireAccess(actor, 'agent', 'messages:send');
    const result = await order({ actor, input, idempotencyKey });
    if (isOperationError(result)) throw result;
    return result;
  };
}

/** What orders are judged by, read once for all that share a unit. */
interface House {
  channels: ChannelRow[];
  accounts: Map<string, ProviderAccountRow>;
  numbers: Map<string, ProviderNumberRow>;
  answered: Map<string, MessageRow>;
  shelf: TemplateShelf;
}

/** An order that may be placed, before its message has a thread. */
interface Draft {
  order: Order;
  channel: ChannelRow;
  recipient: string;
  said: TemplateText;
}

/** A refused order is an answer, not a failure: it must not undo its neighbours in the unit. */
async function placeOrders(w: Windgap, unit: Unit, orders: readonly Order[]): Promise<Ordered[]> {
  const at = w.now();
  const house = await readHouse(unit, orders);
  const earlier = await earlierAnswers(unit, orders);
  const results = new Map<Order, Ordered>();
  const drafts: Draft[] = [];
  /** The first of several orders with one key in the same unit; the others get its answer. */
  const firstWith = new Map<string, Order>();
  for (const order of orders) {
    const key = keyOf(order);
    const before = key === undefined ? undefined : (earlier.get(key) ?? firstWith.get(key));
    if (before) continue;
    try {
      drafts.push(await draftOf(w, unit, house, order, at));
      if (key !== undefined) firstWith.set(key, order);
    } catch (error) {
      if (!isOperationError(error)) throw error;
      results.set(order, error);
    }
  }
  for (const [draft, refusal] of await declinedAmong(unit, drafts)) {
    results.set(draft.order, refusal);
    drafts.splice(drafts.indexOf(draft), 1);
    const key = keyOf(draft.order);
    if (key !== undefined) firstWith.delete(key);
  }
  const messages = await queueTexts(unit, drafts, at);
  for (const [index, { order }] of drafts.entries())
    results.set(order, { status: 202, message: messageData(messages[index] as MessageRow), replayed: false });
  await keepAnswers(unit, [...firstWith.values()], results, at);
  return orders.map((order) => {
    const key = keyOf(order);
    const own = results.get(order);
    if (own || key === undefined) return own as Ordered;
    const kept = earlier.get(key);
    if (kept) return replay(order, kept.body_hash, JSON.parse(kept.response) as SendAnswer['message'], kept.status);
    const first = firstWith.get(key) as Order;
    const answer = results.get(first) as SendAnswer;
    return replay(order, hashOf(first.input), answer.message, answer.status);
  });
}

/** Orders to people who declined, each with its refusal. Every way of sending comes by here. */
async function declinedAmong(unit: Unit, drafts: readonly Draft[]): Promise<Map<Draft, OperationError>> {
  const refused = new Map<Draft, OperationError>();
  const identities = await unit.identities.allBy('value', [...new Set(drafts.map(({ recipient }) => recipient))]);
  const contactOf = new Map(identities.map(({ kind, value, contact_id }) => [`${kind} ${value}`, contact_id]));
  const gone = await declined(unit, [...contactOf.values()]);
  for (const draft of drafts) {
    const contact = contactOf.get(threadKey(draft.recipient, draft.channel));
    if (contact === undefined || !gone.has(`${consentWay(draft.channel.kind)} ${contact}`)) continue;
    const wording = await lastWording(unit, contact, consentWay(draft.channel.kind));
    refused.set(draft, refusal('to', 'opted-out', draft.recipient, undefined, wording));
  }
  return refused;
}

async function lastWording(unit: Unit, contact_id: string, way: ConsentWay): Promise<string | undefined> {
  const [entry] = await unit.consentEntries.all({ contact_id, way }, { order: [['id', 'DESC']], limit: 1 });
  return entry?.wording.slice(0, 80);
}

/** Confirms opt-outs and opt-ins in the unit that enters them; these alone go to people who declined. */
export async function queueConsentReplies(unit: Unit, replies: readonly ConsentReply[], at: number): Promise<void> {
  await queueTexts(
    unit,
    replies.map(({ channel, recipient, text, inReplyTo }) => ({
      order: { actor: SYSTEM, input: { text, inReplyTo }, consent: true },
      channel,
      recipient,
      said: { text },
    })),
    at,
  );
}

async function readHouse(unit: Unit, orders: readonly Order[]): Promise<House> {
  const replies = orders.flatMap(({ input }) => input.inReplyTo ?? []);
  const [channels, accounts, numbers, answered, shelf] = await Promise.all([
    unit.channels.all(),
    unit.accounts.all(),
    unit.numbers.all(),
    replies.length > 0 ? unit.messages.all({ id: replies }) : [],
    readShelf(
      unit,
      orders.flatMap(({ input }) => input.template?.id ?? []),
    ),
  ]);
  return {
    channels,
    accounts: new Map(accounts.map((row) => [row.id, row])),
    numbers: new Map(numbers.map((row) => [row.id, row])),
    answered: new Map(answered.map((row) => [row.id, row])),
    shelf,
  };
}

/** Throws what is wrong with an order at its field. */
async function draftOf(w: Windgap, unit: Unit, house: House, order: Order, at: number): Promise<Draft> {
  const { input } = order;
  if (input.template && input.text.trim() !== '')
    throw invalidText('text', 'Both a text and a template are given.', 'Give one of them.');
  if (input.text.trim() === '' && !input.media && !input.template)
    throw invalidText('text', 'The text is empty.', 'Write something.');
  if (input.text.length > LONGEST_TEXT) {
    throw invalidText(
      'text',
      `The text is longer than ${LONGEST_TEXT} characters.`,
      'Shorten it or send it in several messages.',
    );
  }
  const answered = input.inReplyTo ? house.answered.get(input.inReplyTo) : undefined;
  if (input.inReplyTo && !answered) {
    throw invalidText('inReplyTo', 'There is no message with this id.', 'Use the id of the message that was received.');
  }
  const channel = chooseChannel(house.channels, input.from, answered);
  const to = input.to ?? (answered?.direction === 'in' ? answered.sender : answered?.recipient);
  const address = recipientOf(to, channel);
  const said = sayingOf(house, input, channel, address);
  await refuseWhatIsKnownToFail(w, unit, house, channel, { ...address, approved: said.template !== undefined }, at);
  if (input.media) refuseUncarriedMedia(w, house, channel, input.media);
  return { order, channel, recipient: address.value, said };
}

function sayingOf(house: House, input: SendInput, channel: ChannelRow, { country }: Address): TemplateText {
  const account = house.accounts.get(channel.account_id);
  if (!input.template || !account) return { text: input.text };
  return textOf(house.shelf, input.template, { channel, account, country });
}

/** Messages, their first events and outbox entries, each kind in one statement. Answers in the order of the drafts. */
async function queueTexts(unit: Unit, drafts: readonly Draft[], at: number): Promise<MessageRow[]> {
  if (drafts.length === 0) return [];
  const threads = await threadsFor(
    unit,
    drafts.map(({ recipient, channel }) => ({ address: recipient, channel })),
    at,
  );
  const messages = drafts.map(({ order, channel, recipient, said }) => {
    const thread = threads.get(threadKey(recipient, channel));
    if (!thread) throw new Error('A thread was asked for and not made');
    return outboundRow(order, said, channel, recipient, thread, at);
  });
  await unit.messages.insert(messages);
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
      priority: REPLY_PRIORITY,
      state: 'due' as const,
      due_at: at,
      attempts: 0,
      first_attempt_at: null,
      lease_owner: null,
      failures: 0,
    })),
  );
  for (const [id, group] of groupBy(messages, (message) => message.conversation_id)) {
    const last = group.at(-1) as MessageRow;
    await unit.conversations.change(
      { id },
      {
        last_message_at: at,
        last_text: inOneLine(last).slice(0, 160),
        last_direction: 'out',
        channel_id: last.channel_id,
      },
    );
  }
  await noteMessages(unit, at, messages);
  return messages;
}

function recipientOf(to: string | undefined, channel: ChannelRow): Address {
  if (to === undefined) throw invalidText('to', 'There is no recipient.', 'Give a number in "to", or "inReplyTo".');
  if (channel.kind === 'web-chat') {
    if (!/^vis_\w+$/.test(to)) {
      const mend = 'Answer over a text channel, or wait until the person writes on the website.';
      throw invalidText('to', 'A web chat reaches its visitors only.', mend);
    }
    return { value: to, kind: 'other', fictional: false };
  }
  const normalised = normaliseAddress(to, { defaultCountry: channel.default_country ?? undefined });
  if (!normalised.ok) throw invalid('to', normalised.finding);
  if (normalised.address.value === channel.address) {
    throw invalidText('to', 'This is the channel’s own number.', 'Give the number of the person.');
  }
  return normalised.address;
}

/** A refusal that can be foreseen is given now, at the one who asks, and not by the provider later. */
async function refuseWhatIsKnownToFail(
  w: Windgap,
  unit: Unit,
  house: House,
  channel: ChannelRow,
  recipient: Address & { approved: boolean },
  at: number,
): Promise<void> {
  const account = house.accounts.get(channel.account_id);
  const number = house.numbers.get(channel.number_id);
  if (!account || !number) throw new Error('A channel stands without its account or number');
  const connector = w.connectors.get(account.connector);
  if (!number.abilities.includes('text-out'))
    throw refusal('from', 'sender-wrong-direction', channel.address, account.name);
  // What the platform approved may start a conversation.
  const replyWindowHours = recipient.approved ? undefined : connector.limits.replyWindowHours;
  const foreseen = predictRefusal({
    now: at,
    facts: account.facts,
    requires: connector.requires,
    disabled: account.disabled_at !== null,
    recipient,
    replyWindowHours,
    lastInboundAt: replyWindowHours ? await lastInboundAt(unit, channel, recipient.value) : undefined,
  });
  if (!foreseen) return;
  const subject = foreseen.subject?.length === 2 ? countryName(foreseen.subject) : foreseen.subject;
  const allowed = foreseen.cause === 'window-closed' ? whatIsAllowed(w, house, connector) : '';
  throw refusal('to', foreseen.cause, subject, account.name, foreseen.said, allowed);
}

/** A file nobody on the way would carry is refused with what would be. */
function refuseUncarriedMedia(w: Windgap, house: House, channel: ChannelRow, media: Media): void {
  const account = house.accounts.get(channel.account_id);
  const types = account ? w.connectors.get(account.connector).mediaTypes : [];
  if (types.length === 0) {
    const mend = 'Send the text with a link to the file, or choose a channel that carries files.';
    throw invalidText('media', `${account?.name ?? channel.name} carries texts only.`, mend);
  }
  if (!house.numbers.get(channel.number_id)?.abilities.includes('media-out'))
    throw invalidText('media', `${channel.address} sends texts only.`, 'Send from a number that can send files.');
  if (!types.includes(media.type)) {
    const mend = `These are carried: ${types.join(', ')}.`;
    throw invalidText('media.type', `${account?.name} does not carry ${media.type}.`, mend);
  }
  const url = URL.canParse(media.url) ? new URL(media.url) : undefined;
  if (!url || !['https:', 'http:'].includes(url.protocol))
    throw invalidText('media.url', 'This is not a web address.', 'Give an address the provider can fetch, with https.');
}

async function lastInboundAt(unit: Unit, channel: ChannelRow, recipient: string): Promise<number | undefined> {
  const [row] = await unit.select<{ at: number }>(
    `SELECT r.last_inbound_at AS at FROM reply_windows r JOIN contact_identities i ON i.contact_id = r.contact_id
      WHERE r.channel_id = :channel AND i.kind = 'phone' AND i.value = :recipient`,
    { channel: channel.id, recipient },
  );
  return row?.at;
}

/** Outside the reply window: which other channels could carry the text now. */
function whatIsAllowed(w: Windgap, { channels, accounts }: House, connector: Connector): string {
  const others = channels.filter((channel) => {
    const account = accounts.get(channel.account_id);
    const other = account?.disabled_at === null ? w.connectors.get(account.connector) : undefined;
    return other?.kind.startsWith('sms') && other !== connector && !other.limits.replyWindowHours;
  });
  if (others.length === 0) return '';
  return ` A text over ${others
    .map((channel) => channel.name)
    .slice(0, 3)
    .join(' or ')} is allowed now.`;
}

function refusal(
  field: string,
  code: Parameters<typeof cause>[0],
  subject: string | undefined,
  who: string | undefined,
  said?: string,
  more = '',
): OperationError {
  const { explain, mend } = cause(code);
  return invalid(field, { code, severity: 'error', problem: explain({ who, said, subject }), mend: mend + more });
}

function chooseChannel(
  channels: readonly ChannelRow[],
  from: string | undefined,
  answered: MessageRow | undefined,
): ChannelRow {
  if (from !== undefined) {
    const normalised = normaliseAddress(from, { allowShortCode: true, allowSenderName: true });
    const address = normalised.ok ? normalised.address.value : from;
    const chosen = channels.find((channel) => channel.id === from || channel.address === address);
    if (!chosen) throw invalidText('from', `No channel sends from ${from}.`, 'Use the id or the number of a channel.');
    return chosen;
  }
  const only = channels.length === 1 ? channels[0] : undefined;
  const chosen = channels.find((channel) => channel.id === answered?.channel_id) ?? only;
  if (!chosen)
    throw invalidText('from', 'It is not said which channel to send from.', 'Give a channel id or number in "from".');
  return chosen;
}

function outboundRow(
  { actor, input, consent }: Order,
  { text, template }: TemplateText,
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
    encoding: measure.encoding,
    parts: measure.parts.length,
    ...standingColumns(standingAfter({ kind: 'queued', at })),
    provider_message_id: null,
    price_micros: null,
    price_currency: null,
    origin_kind: consent ? 'consent' : actor.kind === 'app' ? 'app' : 'user',
    origin_id: actor.id,
    origin_name: actor.name,
    in_reply_to: input.inReplyTo ?? null,
    inbound_request_id: null,
    created_at: at,
  };
}

/**
 * Idempotency-Key (IETF httpapi draft-ietf-httpapi-idempotency-key-header §2.6-2.7): the
 * first answer is given again for 24 hours; the same key with another body is refused.
 */
const KEY_LIFETIME = 24 * 3600_000;

/** Owner and key of an order; undefined for one without a key. */
function keyOf({ actor, idempotencyKey }: Order): string | undefined {
  return idempotencyKey === undefined ? undefined : `${actor.id} ${idempotencyKey}`;
}

async function earlierAnswers(unit: Unit, orders: readonly Order[]): Promise<Map<string, IdempotencyRow>> {
  const keyed = orders.filter((order) => order.idempotencyKey !== undefined);
  if (keyed.length === 0) return new Map();
  const rows = await unit.idempotency.all({
    owner_id: [...new Set(keyed.map(({ actor }) => actor.id))],
    key: keyed.map(({ idempotencyKey }) => idempotencyKey as string),
  });
  return new Map(rows.map((row) => [`${row.owner_id} ${row.key}`, row]));
}

function replay(order: Order, bodyHash: string, message: SendAnswer['message'], status: number): Ordered {
  if (bodyHash !== hashOf(order.input))
    return new OperationError('conflict', 'This Idempotency-Key was used before with another body.');
  return { status, message, replayed: true };
}

async function keepAnswers(
  unit: Unit,
  orders: readonly Order[],
  results: ReadonlyMap<Order, Ordered>,
  at: number,
): Promise<void> {
  await unit.idempotency.insert(
    orders.map((order) => {
      const answer = results.get(order) as SendAnswer;
      return {
        owner_id: order.actor.id,
        key: order.idempotencyKey as string,
        body_hash: hashOf(order.input),
        status: answer.status,
        response: JSON.stringify(answer.message),
        created_at: at,
      };
    }),
  );
}

function hashOf(input: SendInput): string {
  const { to, from, text, inReplyTo, media, tags, template } = input;
  return createHash('sha256')
    .update(
      JSON.stringify([
        to,
        from,
        text,
        inReplyTo,
        ...(media || tags || template ? [media, tags] : []),
        ...(template ? [template] : []),
      ]),
    )
    .digest('base64');
}

/** Forgets keys past their day. */
export async function pruneIdempotency(w: Windgap): Promise<void> {
  await w.store.write((unit) =>
    unit.execute('DELETE FROM idempotency_records WHERE created_at < :before', { before: w.now() - KEY_LIFETIME }),
  );
}
