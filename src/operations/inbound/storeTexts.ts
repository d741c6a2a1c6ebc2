/** Texts that came in become messages: known ones dropped, parts joined, contacts and conversations found or made. */
import type { Connector, TextItem } from '../../connectors/connector';
import { standingAfter } from '../../core/delivery/lifecycle';
import { inOneLine, type Media, type MessageFile } from '../../core/delivery/media';
import { groupBy } from '../../core/groupBy';
import { measureText } from '../../core/text/measure';
import { newId } from '../../store/ids';
import type {
  ChannelRow,
  ConversationRow,
  InboundPartRow,
  InboundRequestRow,
  IncomingFileRow,
  MessageRow,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type AppContext, noteMessages } from '../context';
import { identityOn, proveIdentities } from '../identities';
import { standingColumns } from '../messages';
import { recordFacts, type SubjectFact } from '../proofs';
import { threadKey, threadsFor } from '../threads';
import { expectFile } from './fetchFiles';
import { keepFiles } from './keepFiles';

export interface ReceivedText {
  request: InboundRequestRow;
  /** The channel it belongs to, which is not always the one it was posted to. */
  channel: ChannelRow;
  connector: Connector;
  item: TextItem;
  from: string;
}

/** Parts further apart than this, in milliseconds, are not of one text: references come round, at worst after 256 texts. */
const PARTS_BELONG = 24 * 3_600_000;
/** The same for a part that a whole text had already: a carrier repeats parts, and it may be one that nobody will complete. */
const REPEATS_BELONG = 5 * 60_000;

/**
 * Keeps parts of long texts until all are there; the last one to come brings the whole text. A part that waits already
 * changes nothing when it comes again; another text under the same reference takes the place of the part it differs from.
 */
export async function joinParts(unit: Unit, texts: readonly ReceivedText[], at: number): Promise<ReceivedText[]> {
  const whole: ReceivedText[] = [];
  for (const text of texts) {
    const { part } = text.item;
    if (!part) {
      whole.push(text);
      continue;
    }
    const { reference, total, sequence } = part;
    const key = { channel_id: text.channel.id, sender: text.from, reference, total };
    const own = { sequence, text: text.item.text, received_at: text.request.received_at };
    const known = await unit.inboundParts.all(key);
    const apart = (row: { received_at: number }) => Math.abs(own.received_at - row.received_at);
    const joined = known.filter((row) => row.joined_at !== null && apart(row) < PARTS_BELONG);
    const repeats = (row: typeof own) => joined.some((each) => isSame(each, row));
    const waiting = known.filter(
      (row) => row.joined_at === null && apart(row) < (repeats(row) || repeats(own) ? REPEATS_BELONG : PARTS_BELONG),
    );
    if (waiting.some((row) => isSame(row, own))) continue;
    await unit.inboundParts.removeBy('id', idsOf(waiting.filter((row) => row.sequence === sequence)));
    const row = { ...key, ...own, inbound_request_id: text.request.id, joined_at: null };
    await unit.inboundParts.insert([row]);
    const parts = [...waiting.filter((each) => each.sequence !== sequence), row];
    if (parts.length < total) continue;
    for (const { inbound_request_id, ...each } of parts)
      await unit.inboundParts.change(
        { ...key, sequence: each.sequence, inbound_request_id, joined_at: null },
        { joined_at: at },
      );
    const words = parts.sort((a, b) => a.sequence - b.sequence).map((each) => each.text);
    whole.push({ ...text, item: { ...text.item, text: words.join(''), part: undefined } });
  }
  return whole;
}

function isSame(one: { sequence: number; text: string }, other: { sequence: number; text: string }): boolean {
  return one.sequence === other.sequence && one.text === other.text;
}

function idsOf(rows: readonly InboundPartRow[]): number[] {
  return rows.flatMap(({ id }) => id ?? []);
}

/** Returns the messages made, by request and item; a text already known is not among them. */
export async function storeTexts(
  { config: { publicUrl } }: Pick<AppContext, 'config'>,
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
    { at, source: 'wrote' },
  );
  const answered = await answeredBy(unit, fresh);
  const awaited: IncomingFileRow[] = [];
  for (const text of fresh) {
    const thread = threads.get(threadKey(text.from, text.channel));
    if (!thread) continue;
    const kept = await keepFiles(unit, text.item.files ?? [], { at, publicUrl });
    const message = messageRow(text, thread.contactId, thread.conversationId);
    const expected = text.item.media && expectFile(text.item.media, message.id, { at, publicUrl });
    if (expected) awaited.push(expected.row);
    const files = [...(expected ? [expected.file] : []), ...kept];
    made.set(text, {
      ...message,
      in_reply_to: answered.get(text) ?? null,
      files: files.length > 0 ? files : null,
      media: expected?.media ?? firstMedia(files),
    });
  }
  const messages = [...made.values()];
  const conversations = await unit.conversations.allBy(
    'id',
    messages.map(({ conversation_id }) => conversation_id),
  );
  await unit.messages.insert(messages);
  await unit.incomingFiles.insert(awaited);
  await proveIdentities(
    unit,
    fresh.map((text) => identityOn(text.channel, text.from)),
    at,
  );
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
  await noteNames(unit, made);
  await recordFacts(unit, [...texts.map(arrivalFact), ...(await answeredFacts(unit, made))], at);
  await noteMessages(unit, at, messages);
  return { made, before: new Map(conversations.map((row) => [row.id, row])) };
}

/** Our messages that these answer, where the provider names them: the likeliest that is known. */
async function answeredBy(unit: Unit, texts: readonly ReceivedText[]): Promise<Map<ReceivedText, string>> {
  const naming = texts.filter(({ item }) => (item.answers ?? []).length > 0);
  if (naming.length === 0) return new Map();
  const accounts = [...new Set(naming.map(({ channel }) => channel.account_id))];
  const rows = await unit.select<{ id: string; account_id: string; remote: string }>(
    `SELECT m.id, c.account_id, m.provider_message_id AS remote FROM channels c JOIN messages m ON m.channel_id = c.id
      WHERE c.account_id IN (:accounts) AND m.direction = 'out' AND m.provider_message_id IN (:ids)`,
    { accounts, ids: [...new Set(naming.flatMap(({ item }) => item.answers ?? []))] },
  );
  const ours = new Map(rows.map((row) => [`${row.account_id} ${row.remote}`, row.id]));
  return new Map(
    naming.flatMap((text) => {
      const [id] = (text.item.answers ?? []).flatMap(
        (remote) => ours.get(`${text.channel.account_id} ${remote}`) ?? [],
      );
      return id ? [[text, id] as const] : [];
    }),
  );
}

/** The first file, for those that know of one. */
function firstMedia(files: readonly MessageFile[]): Media | null {
  const first = files.find(({ url }) => url !== undefined);
  return first?.url ? { url: first.url, type: first.type || 'application/octet-stream' } : null;
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
    media: null,
    tags: null,
    template: null,
    choices: null,
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
    subject: item.subject ?? null,
    automatic: item.automatic ?? null,
    files: null,
    valid_until: null,
    fallback_to: null,
    instead_of: null,
    continued_by: null,
  };
}

async function updateConversations(unit: Unit, made: ReadonlyMap<ReceivedText, MessageRow>): Promise<void> {
  const byConversation = groupBy([...made], ([, message]) => message.conversation_id);
  for (const [id, group] of byConversation) {
    const byPeople = group.filter(([, { automatic }]) => automatic === null);
    const [, latest] = group.at(-1) as [ReceivedText, MessageRow];
    const [text, last] = byPeople.at(-1) ?? [];
    if (!text || !last) {
      // What a program wrote is seen, and is nobody’s work.
      const seen = { last_message_at: latest.created_at, last_text: inOneLine(latest).slice(0, 160) };
      await unit.conversations.change({ id }, { ...seen, last_direction: 'in' });
      continue;
    }
    await unit.execute(
      `UPDATE conversations SET last_message_at = :at, last_text = :text, last_direction = 'in', unread = unread + :count, channel_id = :channel,
         state = 'open', last_inbound_at = :at, closed_at = NULL, idle_noticed_at = NULL WHERE id = :id`,
      {
        id,
        at: last.created_at,
        text: inOneLine(last).slice(0, 160),
        count: byPeople.length,
        channel: text.channel.id,
      },
    );
  }
}

/** What people call themselves, for contacts that have no name yet. */
async function noteNames(unit: Unit, made: ReadonlyMap<ReceivedText, MessageRow>): Promise<void> {
  const told = new Map(
    [...made].flatMap(([{ item }, { contact_id }]) => (item.senderName ? [[contact_id, item.senderName]] : [])),
  );
  const nameless = await unit.contacts.all({ id: [...told.keys()], name: null });
  await unit.contacts.changeEach(
    'id',
    nameless.map(({ id }) => ({ id, name: told.get(id) ?? null })),
  );
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
