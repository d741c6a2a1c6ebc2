/** Delivery receipts: matched to their message by the provider's id or our reference, kept when they come too early. */
import type { ReceiptItem } from '../../connectors/connector';
import { ID_BASES, idAsAnswered } from '../../core/trunk/receipts';
import { markOf } from '../../core/trunk/submits';
import type { InboundRequestRow, MessagePartRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import { appendMessageEvents, type NewMessageEvent } from './messageEvents';

export interface ReceivedReceipt {
  request: Pick<InboundRequestRow, 'id' | 'channel_id' | 'received_at'>;
  item: ReceiptItem;
  /** Channels whose messages it may be about. */
  channelIds: readonly string[];
}

/**
 * Applies receipts. One whose message is not known yet is kept: the provider can be
 * quicker with its receipt than with its answer. Returns the message id of each match.
 */
export async function applyReceipts(
  unit: Unit,
  receipts: readonly ReceivedReceipt[],
  at: number,
): Promise<Map<ReceiptItem, string>> {
  const matched = new Map<ReceiptItem, string>();
  if (receipts.length === 0) return matched;
  const candidates = await candidatesOf(unit, receipts);
  const events: NewMessageEvent[] = [];
  const facts: SubjectFact[] = [];
  for (const receipt of receipts) {
    const { message, part } = (await match(unit, receipt, candidates)) ?? {};
    if (!message) continue;
    matched.set(receipt.item, message.id);
    const item = part ? await wholeOf(unit, part, receipt.item) : receipt.item;
    if (!item) continue;
    events.push(receiptEvent(message.id, { ...receipt, item }));
    facts.push(...receiptFacts(message, { ...receipt, item }));
    if (message.state === 'uncertain') await settleByReceipt(unit, message.id, receipt.item.providerMessageId);
  }
  const unmatched = receipts.filter((receipt) => !matched.has(receipt.item));
  await keepUnmatched(unit, unmatched);
  facts.push(...(await wrongBases(unit, unmatched)));
  await appendMessageEvents(unit, events, at);
  await recordFacts(unit, facts, at);
  return matched;
}

interface Candidates {
  messages: MessageRow[];
  parts: MessagePartRow[];
}

async function candidatesOf(unit: Unit, receipts: readonly ReceivedReceipt[]): Promise<Candidates> {
  const values = {
    channels: [...new Set(receipts.flatMap(({ channelIds }) => channelIds))],
    ids: receipts.map(({ item }) => item.providerMessageId),
    references: receipts.map(({ item }) => item.reference ?? ''),
  };
  const parts = await unit.select<MessagePartRow>(
    'SELECT * FROM message_parts WHERE channel_id IN (:channels) AND provider_message_id IN (:ids)',
    values,
  );
  const messages = await unit.select<MessageRow>(
    `SELECT * FROM messages WHERE direction = 'out' AND channel_id IN (:channels) AND provider_message_id IN (:ids)
     UNION SELECT * FROM messages WHERE direction = 'out' AND id IN (:owners)`,
    { ...values, owners: [...values.references, ...parts.map((part) => part.message_id)] },
  );
  return { messages: unit.messages.read(messages), parts };
}

async function match(
  unit: Unit,
  { item, channelIds }: ReceivedReceipt,
  { messages, parts }: Candidates,
): Promise<{ message?: MessageRow; part?: MessagePartRow } | undefined> {
  const part = parts.find(
    (row) => row.provider_message_id === item.providerMessageId && channelIds.includes(row.channel_id),
  );
  if (part) return { part, message: messages.find((row) => row.id === part.message_id) };
  const message = messages.find(
    (row) =>
      channelIds.includes(row.channel_id) &&
      (row.provider_message_id === item.providerMessageId || row.id === item.reference),
  );
  return message ? { message } : uncertainByMark(unit, item, channelIds);
}

/**
 * A receipt for a submit whose answer never came: our own mark comes back with it, and the
 * phone; among the few texts whose outcome is unknown that is enough to tell which it is.
 */
async function uncertainByMark(unit: Unit, { mark }: ReceiptItem, channelIds: readonly string[]) {
  if (!mark) return undefined;
  const uncertain = await unit.messages.all({
    state: 'uncertain',
    channel_id: [...channelIds],
    recipient: mark.recipient,
  });
  const fitting = uncertain.filter((row) => {
    const behind = (mark.reference - markOf(row.id)) & 0xffff;
    return behind < row.parts;
  });
  return fitting.length === 1 ? { message: fitting[0] } : undefined;
}

/** Notes a part's receipt. Returns what it makes of the whole: nothing until all parts arrived or one is lost. */
async function wholeOf(unit: Unit, part: MessagePartRow, item: ReceiptItem): Promise<ReceiptItem | undefined> {
  if (item.state === 'sent' || part.state === item.state) return item.state === 'sent' ? item : undefined;
  await unit.messageParts.change(
    { message_id: part.message_id, sequence: part.sequence },
    { state: item.state === 'undelivered' ? 'undelivered' : 'delivered' },
  );
  const parts = await unit.messageParts.all({ message_id: part.message_id });
  if (item.state === 'undelivered') return { ...item, said: `${item.said} (part ${part.sequence} of ${parts.length})` };
  return parts.every((row) => row.state === 'delivered') ? item : undefined;
}

function keepUnmatched(unit: Unit, receipts: readonly ReceivedReceipt[]): Promise<void> {
  return unit.unmatched.insert(
    receipts.map(({ request, item, channelIds }) => ({
      channel_id: request.channel_id || (channelIds[0] ?? ''),
      provider_message_id: item.providerMessageId,
      reference: item.reference ?? null,
      receipt: { ...item, channelIds },
      inbound_request_id: request.id,
      received_at: request.received_at,
      matched_at: null,
    })),
  );
}

/** Ids that fit a message once they are read in another base show that the setting is wrong. */
async function wrongBases(unit: Unit, receipts: readonly ReceivedReceipt[]): Promise<SubjectFact[]> {
  const facts: SubjectFact[] = [];
  for (const { request, item, channelIds } of receipts) {
    if (item.writtenId === undefined || channelIds.length === 0) continue;
    const others = ID_BASES.map((base) => idAsAnswered(item.writtenId as string, base));
    const [owner] = await unit.select<{ channel_id: string }>(
      `SELECT channel_id FROM messages WHERE direction = 'out' AND channel_id IN (:channelIds) AND provider_message_id IN (:others)
       UNION SELECT channel_id FROM message_parts WHERE channel_id IN (:channelIds) AND provider_message_id IN (:others) LIMIT 1`,
      { channelIds: [...channelIds], others },
    );
    if (owner) facts.push(fault(owner.channel_id, 'receipt-id-base', request.received_at, request.id));
  }
  return facts;
}

/** Applies what was kept for messages whose provider id has just become known. */
export async function applyKeptReceipts(
  unit: Unit,
  messages: Iterable<Pick<MessageRow, 'provider_message_id'>>,
  at: number,
): Promise<void> {
  const ids = [...messages].flatMap((message) => message.provider_message_id ?? []);
  if (ids.length === 0) return;
  await applyAgain(unit, { provider_message_id: ids }, at);
}

/** Applies kept receipts once more, as they are read now: their messages have become known, or a setting was fixed. */
export async function applyAgain(
  unit: Unit,
  where: { provider_message_id?: string[]; channel_id?: string[] },
  at: number,
  read: (item: ReceiptItem) => ReceiptItem = (item) => item,
): Promise<number> {
  const kept = await unit.unmatched.all({ ...where, matched_at: null });
  if (kept.length === 0) return 0;
  await unit.unmatched.change({ id: kept.map((row) => row.id as number) }, { matched_at: at });
  const receipts = kept.map((row): ReceivedReceipt => {
    const { channelIds, ...item } = row.receipt as unknown as ReceiptItem & { channelIds?: string[] };
    return {
      request: { id: row.inbound_request_id, channel_id: row.channel_id, received_at: row.received_at },
      item: read(item),
      channelIds: channelIds ?? [row.channel_id],
    };
  });
  return (await applyReceipts(unit, receipts, at)).size;
}

function receiptEvent(messageId: string, { request, item }: ReceivedReceipt): NewMessageEvent {
  return {
    message_id: messageId,
    kind: item.state,
    at: item.at ?? request.received_at,
    cause: item.cause ?? null,
    detail: { said: item.said, receivedAt: request.received_at },
    inbound_request_id: request.id,
  };
}

/** Evidence counts from when the message was made: a receipt for something older than a change proves nothing after it. */
function receiptFacts(message: MessageRow, { request, item }: ReceivedReceipt): SubjectFact[] {
  if (item.state === 'sent') return [];
  const kind = item.state === 'undelivered' ? 'undelivered' : 'delivered';
  return [
    {
      subject: message.channel_id,
      fact: { kind, began: message.created_at, at: request.received_at, ref: message.id },
    },
  ];
}

/** A receipt shows that the provider did take it after all. */
async function settleByReceipt(unit: Unit, messageId: string, providerMessageId: string): Promise<void> {
  await unit.outbox.remove({ message_id: messageId });
  await unit.messages.change({ id: messageId, provider_message_id: null }, { provider_message_id: providerMessageId });
}
