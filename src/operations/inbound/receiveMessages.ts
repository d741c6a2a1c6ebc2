/**
 * The way in, second half: the engine works through stored requests. Safe to repeat:
 * a request is marked done in the same unit that holds what came of it, and a text or
 * receipt already known changes nothing.
 */

import type { Connector, InboundHttpRequest, ReceiptItem, ReviewItem, TextItem } from '../../connectors/connector';
import { normaliseAddress } from '../../core/addresses/address';
import { channelKind } from '../../core/connect/channelKinds';
import type { CauseCode } from '../../core/delivery/causes';
import { standingAfter } from '../../core/delivery/lifecycle';
import { inOneLine } from '../../core/delivery/media';
import { groupBy } from '../../core/groupBy';
import { measureText } from '../../core/text/measure';
import { newId } from '../../store/ids';
import type {
  ChannelRow,
  ConversationRow,
  InboundRequestRow,
  MessageRow,
  ProviderAccountRow,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { noteAnswers } from '../apps/feeds';
import { keepMessages } from '../apps/records';
import { appendMessages } from '../apps/sheets';
import { takeConsentWords } from '../contacts';
import { type AppContext, found, noteChanges, noteMessages } from '../context';
import { mailAssignees } from '../conversations';
import { applyReceipts, type ReceivedReceipt, standingColumns } from '../messages';
import { queueConsentReplies } from '../outbound';
import { syncProfiles } from '../profiles';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import { routeMessages } from '../routing';
import { receiveReviews } from '../templates';
import { threadKey, threadsFor } from '../threads';

interface ReceivedText {
  request: InboundRequestRow;
  /** The channel it belongs to, which is not always the one it was posted to. */
  channel: ChannelRow;
  connector: Connector;
  item: TextItem;
  from: string;
}

/** Everything a stored request is read with. */
export interface House {
  channels: Map<string, ChannelRow>;
  accounts: Map<string, ProviderAccountRow>;
}

export async function loadHouse(ctx: AppContext): Promise<House> {
  await syncProfiles(ctx);
  return {
    channels: new Map((await ctx.store.channels.all()).map((row) => [row.id, row])),
    accounts: new Map((await ctx.store.accounts.all()).map((row) => [row.id, row])),
  };
}

/** Works through requests in one unit: all of them, or none. Returns whether anything is to be sent. */
export async function workThrough(
  ctx: AppContext,
  waiting: readonly InboundRequestRow[],
  house: House,
): Promise<boolean> {
  let answered = false;
  await ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      const texts: ReceivedText[] = [];
      const receipts: ReceivedReceipt[] = [];
      const facts: SubjectFact[] = [];
      const reviews: { account: ProviderAccountRow; item: ReviewItem }[] = [];
      for (const request of waiting) {
        const { account, connector } = lineOf(ctx, request, house);
        const parsed = connector.parse(asHttp(request), account.settings);
        if (!parsed.ok) {
          await setAside(unit, request, at, 'inbound-unreadable', parsed.reason);
          continue;
        }
        for (const item of parsed.items) {
          if (item.kind === 'receipt') {
            receipts.push({ request, item, channelIds: channelsFor(request, account, connector, house) });
            continue;
          }
          if (item.kind === 'review') {
            reviews.push({ account, item });
            continue;
          }
          const home = homeOf(request, item, account, connector, house);
          if (!home) {
            await setAside(unit, request, at, 'number-not-a-channel', `it was for ${item.to}`);
            continue;
          }
          if (home.posted)
            facts.push(fault(home.posted.id, 'arrived-on-another-number', request.received_at, request.id));
          if (item.alphabetDoubt) facts.push(fault(home.channel.id, 'trunk-alphabet', request.received_at, request.id));
          const from = senderOf(item.from, home.channel);
          texts.push({ request, channel: home.channel, connector, item, from });
        }
      }
      const whole = await joinParts(unit, texts, at);
      const { made: stored, before } = await storeTexts(unit, whole, at);
      const { replies, taken } = await takeConsentWords(
        unit,
        [...stored].map(([{ channel }, message]) => ({ message, channel })),
      );
      await queueConsentReplies(unit, replies, at);
      await routeMessages(ctx, unit, [...stored.values()], { taken, before, at });
      await mailAssignees(ctx, unit, [...stored.values()], { before, at });
      answered = replies.length > 0;
      await keepMessages(ctx, unit, [...stored.values()], at);
      await appendMessages(unit, [...stored.values()], at);
      await noteAnswers(unit, [...stored.values()], at);
      await receiveReviews(unit, reviews, at);
      const matched = await applyReceipts(unit, receipts, at);
      await unit.execute(
        `UPDATE inbound_requests SET state = 'done', cause = NULL, processed_at = :at WHERE id IN (:ids) AND state = 'stored'`,
        { at, ids: waiting.map((request) => request.id) },
      );
      await noteOutcomes(unit, texts, whole, stored, receipts, matched);
      await recordFacts(unit, facts, at);
      await noteChanges(
        unit,
        at,
        waiting.map((request) => ['inbound', request.channel_id || (request.account_id ?? '')] as const),
      );
    },
    { durable: false },
  );
  return answered;
}

function lineOf(ctx: AppContext, request: InboundRequestRow, { channels, accounts }: House) {
  const accountId = request.account_id ?? channels.get(request.channel_id)?.account_id ?? '';
  const account = found(accounts.get(accountId), 'account');
  return { account, connector: ctx.connectors.get(account.connector) };
}

function asHttp(request: InboundRequestRow): InboundHttpRequest {
  const url = request.path.includes('://') ? request.path : `http://windgap.invalid${request.path}`;
  return {
    method: request.method,
    url: request.query ? `${url}?${request.query}` : url,
    headers: request.headers,
    body: request.body,
  };
}

async function setAside(unit: Unit, request: InboundRequestRow, at: number, cause: CauseCode, reason: string) {
  const values = { state: 'unreadable', cause, outcome: { reason }, processed_at: at } as const;
  await unit.inbound.change({ id: request.id }, values);
}

/** Receipts of an account-wide address or a trunk may be about any channel of the account. */
function channelsFor(
  request: InboundRequestRow,
  account: ProviderAccountRow,
  connector: Connector,
  { channels }: House,
): string[] {
  if (connector.inboundBelongsTo === 'number') return [request.channel_id];
  return [...channels.values()].flatMap((channel) => (channel.account_id === account.id ? [channel.id] : []));
}

/**
 * The channel a text belongs to: the one whose number it was sent to. Where each number has
 * an address of its own and another's was called, `posted` is that other channel. A number
 * nobody has here stays with the channel it was posted to, so that nothing is lost; over a
 * trunk there is none.
 */
function homeOf(
  request: InboundRequestRow,
  item: TextItem,
  account: ProviderAccountRow,
  connector: Connector,
  { channels }: House,
): { channel: ChannelRow; posted?: ChannelRow } | undefined {
  const posted = channels.get(request.channel_id);
  const to = addressedTo(item.to, posted);
  if (posted && posted.address === to) return { channel: posted };
  const channel = [...channels.values()].find((row) => row.account_id === account.id && row.address === to);
  if (!posted) return channel && { channel };
  if (connector.inboundBelongsTo === 'account') return { channel: channel ?? posted };
  return { channel: channel ?? posted, posted };
}

function addressedTo(to: string, channel: ChannelRow | undefined): string {
  const normalised = normaliseAddress(to, {
    defaultCountry: channel?.default_country ?? undefined,
    allowShortCode: true,
    allowSenderName: true,
  });
  return normalised.ok ? normalised.address.value : to;
}

/** A short code, a sender name or a visitor has no E.164 form and is kept as it came. */
function senderOf(from: string, channel: ChannelRow): string {
  return channelKind(channel.kind).identity === 'visitor' ? from : addressedTo(from, channel);
}

/** Keeps parts of long texts until all are there; the last one to come brings the whole text. */
async function joinParts(unit: Unit, texts: readonly ReceivedText[], at: number): Promise<ReceivedText[]> {
  const whole: ReceivedText[] = [];
  for (const text of texts) {
    const { part } = text.item;
    if (!part) {
      whole.push(text);
      continue;
    }
    const key = { channel_id: text.channel.id, sender: text.from, reference: part.reference, joined_at: null };
    const kept = await unit.inboundParts.all({ ...key, total: part.total });
    if (!kept.some((row) => row.sequence === part.sequence)) {
      const row = {
        ...key,
        total: part.total,
        sequence: part.sequence,
        text: text.item.text,
        inbound_request_id: text.request.id,
        received_at: text.request.received_at,
      };
      await unit.inboundParts.insert([row]);
      kept.push(row);
    }
    if (kept.length < part.total) continue;
    await unit.inboundParts.change({ ...key, total: part.total }, { joined_at: at });
    const words = kept.sort((a, b) => a.sequence - b.sequence).map((row) => row.text);
    whole.push({ ...text, item: { ...text.item, text: words.join(''), part: undefined } });
  }
  return whole;
}

/** Returns the messages made, by request and item; a text already known is not among them. */
async function storeTexts(
  unit: Unit,
  texts: readonly ReceivedText[],
  at: number,
): Promise<{ made: Map<ReceivedText, MessageRow>; before: Map<string, ConversationRow> }> {
  const made = new Map<ReceivedText, MessageRow>();
  if (texts.length === 0) return { made, before: new Map() };
  const seen = await knownIds(unit, texts);
  const fresh = texts.filter((text) => {
    const key = keyOf(text);
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
  const threads = await threadsFor(
    unit,
    fresh.map((text) => ({ address: text.from, channel: text.channel, name: text.item.senderName })),
    at,
  );
  for (const text of fresh) {
    const thread = threads.get(threadKey(text.from, text.channel));
    if (thread) made.set(text, messageRow(text, thread.contactId, thread.conversationId));
  }
  const messages = [...made.values()];
  const conversations = await unit.conversations.allBy(
    'id',
    messages.map(({ conversation_id }) => conversation_id),
  );
  await unit.messages.insert(messages);
  await unit.events.insert(
    [...made].map(([text, message]) => ({
      message_id: message.id,
      kind: 'received' as const,
      at: text.request.received_at,
      recorded_at: at,
      attempt: null,
      cause: null,
      detail: { sentAt: text.item.at ?? null, from: text.item.from, to: text.item.to },
      exchange_id: null,
      inbound_request_id: text.request.id,
    })),
  );
  await updateConversations(unit, made);
  await openReplyWindows(unit, made);
  await noteSeen(unit, messages);
  await recordFacts(unit, [...texts.map(arrivalFact), ...(await answeredFacts(unit, made))], at);
  await noteMessages(unit, at, messages);
  return { made, before: new Map(conversations.map((row) => [row.id, row])) };
}

function keyOf(text: ReceivedText): string {
  return `${text.channel.id} ${text.item.providerMessageId}`;
}

async function knownIds(unit: Unit, texts: readonly ReceivedText[]): Promise<Set<string>> {
  const rows = await unit.select<{ channel_id: string; provider_message_id: string }>(
    `SELECT channel_id, provider_message_id FROM messages WHERE direction = 'in' AND channel_id IN (:channels) AND provider_message_id IN (:ids)`,
    {
      channels: [...new Set(texts.map((text) => text.channel.id))],
      ids: texts.map((text) => text.item.providerMessageId),
    },
  );
  return new Set(rows.map((row) => `${row.channel_id} ${row.provider_message_id}`));
}

function messageRow(
  { request, channel, item, from }: ReceivedText,
  contactId: string,
  conversationId: string,
): MessageRow {
  const measure = measureText(item.text);
  return {
    id: newId('msg', request.received_at),
    direction: 'in',
    conversation_id: conversationId,
    contact_id: contactId,
    channel_id: channel.id,
    sender: from,
    recipient: channel.address,
    text: item.text,
    media: item.media ?? null,
    tags: null,
    template: null,
    encoding: measure.encoding,
    parts: measure.parts.length,
    ...standingColumns(standingAfter({ kind: 'received', at: request.received_at })),
    provider_message_id: item.providerMessageId,
    price_micros: null,
    price_currency: null,
    origin_kind: 'provider',
    origin_id: null,
    origin_name: null,
    in_reply_to: null,
    inbound_request_id: request.id,
    created_at: request.received_at,
  };
}

async function updateConversations(unit: Unit, made: ReadonlyMap<ReceivedText, MessageRow>): Promise<void> {
  const byConversation = groupBy([...made], ([, message]) => message.conversation_id);
  for (const [id, group] of byConversation) {
    const [text, last] = group.at(-1) as [ReceivedText, MessageRow];
    await unit.execute(
      `UPDATE conversations SET last_message_at = :at, last_text = :text, last_direction = 'in', unread = unread + :count, channel_id = :channel,
         state = 'open', last_inbound_at = :at, closed_at = NULL, idle_noticed_at = NULL WHERE id = :id`,
      {
        id,
        at: last.created_at,
        text: inOneLine(last).slice(0, 160),
        count: group.length,
        channel: answersOver(text.channel),
      },
    );
  }
}

/** Visitors who were told to expect an answer by text are answered over that channel. */
function answersOver(channel: ChannelRow): string {
  const later = channel.settings.answers === 'later' ? channel.settings.replyChannelId : undefined;
  return typeof later === 'string' && later ? later : channel.id;
}

/** When each contact wrote last. */
async function noteSeen(unit: Unit, messages: readonly MessageRow[]): Promise<void> {
  const seen = new Map<string, number>();
  for (const { contact_id, created_at } of messages)
    seen.set(contact_id, Math.max(created_at, seen.get(contact_id) ?? 0));
  await unit.contacts.changeEach(
    'id',
    [...seen].map(([id, seen_at]) => ({ id, seen_at })),
  );
}

/** The time after a contact's last message in which free text is allowed, where the platform has such a rule. */
async function openReplyWindows(unit: Unit, made: ReadonlyMap<ReceivedText, MessageRow>): Promise<void> {
  for (const [{ connector }, message] of made) {
    if (connector.limits.replyWindowHours === undefined) continue;
    const { channel_id, contact_id, created_at } = message;
    const row = await unit.replyWindows.one({ channel_id, contact_id });
    if ((row?.last_inbound_at ?? 0) < created_at)
      await unit.replyWindows.put({ channel_id, contact_id, last_inbound_at: created_at });
  }
}

function arrivalFact({ request, channel }: ReceivedText): SubjectFact {
  const { received_at: received, id } = request;
  return { subject: channel.id, fact: { kind: 'inbound-arrived', began: received, at: received, ref: id } };
}

const ANSWER_WITHIN = 7 * 24 * 3_600_000;

/** Where no receipts exist, an answer is what shows that our text reached the phone. */
async function answeredFacts(unit: Unit, made: ReadonlyMap<ReceivedText, MessageRow>): Promise<SubjectFact[]> {
  const facts: SubjectFact[] = [];
  for (const [{ connector, channel, request }, message] of made) {
    if (connector.givesReceipts) continue;
    const [sent] = await unit.messages.all(
      { conversation_id: message.conversation_id, channel_id: channel.id, direction: 'out', state: 'sent' },
      { order: [['id', 'DESC']], limit: 1 },
    );
    if (!sent || message.created_at - sent.created_at > ANSWER_WITHIN) continue;
    const fact = { kind: 'delivered', began: sent.created_at, at: request.received_at, ref: sent.id } as const;
    facts.push({ subject: channel.id, fact });
  }
  return facts;
}

/** What came of each request, for its own page: messages made, repeats, parts that wait, receipts matched or kept. */
async function noteOutcomes(
  unit: Unit,
  texts: readonly ReceivedText[],
  whole: readonly ReceivedText[],
  made: ReadonlyMap<ReceivedText, MessageRow>,
  receipts: readonly ReceivedReceipt[],
  matched: ReadonlyMap<ReceiptItem, string>,
): Promise<void> {
  const outcomes = new Map<string, { messages: string[]; repeats: number; unmatched: number; part?: string }>();
  const of = (request: { id: string }) => {
    const outcome = outcomes.get(request.id) ?? { messages: [], repeats: 0, unmatched: 0 };
    outcomes.set(request.id, outcome);
    return outcome;
  };
  for (const { request, item } of texts)
    if (item.part) of(request).part = `${item.part.sequence} of ${item.part.total}`;
  for (const text of whole) {
    const message = made.get(text);
    if (message) of(text.request).messages.push(message.id);
    else of(text.request).repeats += 1;
  }
  for (const { request, item } of receipts) {
    const message = matched.get(item);
    if (message) of(request).messages.push(message);
    else of(request).unmatched += 1;
  }
  // One statement for all: a batch may hold hundreds of requests.
  const values = [...outcomes].map(([id, outcome]) => ({ id, outcome }));
  await unit.execute(
    `UPDATE inbound_requests SET outcome = (SELECT json_extract(value, '$.outcome') FROM json_each(:values) WHERE json_extract(value, '$.id') = inbound_requests.id)
      WHERE id IN (:ids)`,
    { values: JSON.stringify(values), ids: values.map((entry) => entry.id) },
  );
}
