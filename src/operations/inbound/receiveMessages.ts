/**
 * The way in, second half: the engine works through stored requests. Safe to repeat:
 * a request is marked done in the same unit that holds what came of it, and a text or
 * receipt already known changes nothing.
 */

import type {
  Connector,
  ConsentItem,
  InboundHttpRequest,
  ReactionItem,
  ReceiptItem,
  ReviewItem,
  TextItem,
  UnreadPart,
} from '../../connectors/connector';
import { normaliseAddress } from '../../core/addresses/address';
import type { CauseCode } from '../../core/delivery/causes';
import type { ChannelRow, InboundRequestRow, MessageRow, ProviderAccountRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { noteAnswers } from '../apps/feeds';
import { keepMessages } from '../apps/records';
import { appendMessages } from '../apps/sheets';
import { movingChannels } from '../channels';
import { declinedAtProvider, takeConsentWords, toldByProviders } from '../contacts';
import { type AppContext, found, noteChanges } from '../context';
import { mailAssignees } from '../conversations';
import { doubtNobodys, doubtReturned, doubtWrongPeople, noteMissed, ofTelephone } from '../identities';
import { applyReactions, applyReceipts, type ReceivedReceipt } from '../messages';
import { queueConsentReplies } from '../outbound';
import { syncProfiles } from '../profiles';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import { routeMessages } from '../routing';
import { receiveReviews } from '../templates';
import { threadKey, threadsFor } from '../threads';
import { noteSetAside } from '../workQueue';
import { joinParts, type ReceivedText, storeTexts } from './storeTexts';

/** Everything a stored request is read with. */
export interface ReadContext {
  channels: Map<string, ChannelRow>;
  accounts: Map<string, ProviderAccountRow>;
  /** Channels whose number moves to an account or from it, by the account: they are listened to over both. */
  moving: ReadonlyMap<string, readonly string[]>;
}

export async function readContext(ctx: AppContext): Promise<ReadContext> {
  // At once: whoever corrects a profile and has a request processed again means the corrected one.
  await syncProfiles(ctx, true);
  return {
    channels: new Map((await ctx.store.channels.readable()).map((row) => [row.id, row])),
    accounts: new Map((await ctx.store.accounts.readable()).map((row) => [row.id, row])),
    moving: await movingChannels(ctx.store),
  };
}

/** Works through requests in one unit: all of them, or none. Returns whether anything is to be sent. */
export async function workThrough(
  ctx: AppContext,
  waiting: readonly InboundRequestRow[],
  around: ReadContext,
): Promise<boolean> {
  let answered = false;
  await ctx.store.write(
    async (unit) => {
      const at = ctx.now();
      const texts: ReceivedText[] = [];
      const receipts: ReceivedReceipt[] = [];
      const facts: SubjectFact[] = [];
      const told: Told[] = [];
      const unlisted = new Map<string, UnlistedWord[]>();
      const reactions: { item: ReactionItem; channelIds: string[] }[] = [];
      const reviews: { account: ProviderAccountRow; item: ReviewItem }[] = [];
      for (const request of waiting) {
        const { account, connector } = lineOf(ctx, request, around);
        const parsed = await connector.parse(asHttp(request), account.settings);
        if (!parsed.ok) {
          await setAside(unit, request, at, 'inbound-unreadable', parsed.reason);
          continue;
        }
        // What can be read is taken; the rest waits for a decision, and is read again beside what is in already.
        const { unread = [] } = parsed;
        if (unread.length > 0) {
          await setAside(unit, request, at, 'inbound-partly-unreadable', unreadWords(unread));
          unlisted.set(request.id, unlistedIn(unread));
        }
        for (const item of parsed.items) {
          if (item.kind === 'receipt') {
            receipts.push({ request, item, channelIds: channelsFor(request, account, connector, around) });
            continue;
          }
          if (item.kind === 'review') {
            reviews.push({ account, item });
            continue;
          }
          if (item.kind === 'reaction') {
            reactions.push({ item, channelIds: channelsFor(request, account, connector, around) });
            continue;
          }
          const home = homeOf(request, item, account, connector, around);
          if (!home) {
            await setAside(unit, request, at, 'number-not-a-channel', `it was for ${item.to}`);
            continue;
          }
          if (home.posted)
            facts.push(fault(home.posted.id, 'arrived-on-another-number', request.received_at, request.id));
          if (item.kind === 'text' && item.alphabetDoubt)
            facts.push(fault(home.channel.id, 'trunk-alphabet', request.received_at, request.id));
          const from = senderOf(item.from, home.channel);
          if (item.kind === 'consent') {
            told.push({ item, channel: home.channel, from, by: account.name, request });
            continue;
          }
          texts.push({ request, channel: home.channel, connector, item, from });
        }
      }
      const whole = await joinParts(unit, texts, at);
      const { made: stored, before } = await storeTexts(ctx, unit, whole, at);
      const { replies, taken } = await takeConsentWords(
        unit,
        [...stored].flatMap(([{ channel }, message]) => (message.automatic === null ? [{ message, channel }] : [])),
      );
      const written = [...stored.values()].filter(({ automatic }) => automatic === null);
      await queueConsentReplies(ctx, unit, replies, at);
      await routeMessages(ctx, unit, [...stored.values()], { taken, before, at });
      await mailAssignees(ctx, unit, written, { before, at });
      answered = replies.length > 0;
      await keepMessages(ctx, unit, [...stored.values()], at);
      await appendMessages(unit, [...stored.values()], at);
      await noteAnswers(unit, written, at);
      await receiveReviews(unit, reviews, at);
      await doubtWrongPeople(
        unit,
        [...stored].flatMap(([{ channel }, message]) => (message.automatic === null ? [{ message, channel }] : [])),
        at,
      );
      const matched = await applyReceipts(unit, receipts, at);
      await applyReactions(unit, reactions, at);
      await takeToldConsents(unit, told, at);
      const failed = await failedFor(unit, matched, around);
      await doubtNobodys(unit, failed, at);
      await noteMissed(unit, failed, at);
      await doubtReturned(
        unit,
        {
          wrote: whole.flatMap(({ channel, from }) => (ofTelephone(channel) ? [from] : [])),
          arrived: [...matched].flatMap(([{ state }, id]) => (state === 'delivered' ? [id] : [])),
        },
        at,
      );
      await declinedAtProvider(
        unit,
        failed.flatMap((each) => declinedIn(each, around)),
        at,
      );
      await unit.execute(
        `UPDATE inbound_requests SET state = 'done', cause = NULL, processed_at = :at WHERE id IN (:ids) AND state = 'stored'`,
        { at, ids: waiting.map((request) => request.id) },
      );
      await noteOutcomes(unit, { texts, whole, made: stored, receipts, matched, unlisted });
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

interface Told {
  item: ConsentItem;
  channel: ChannelRow;
  from: string;
  /** The account whose provider tells it. */
  by: string;
  request: InboundRequestRow;
}

/** What people told the provider stands in our ledger too, also of people nobody here knows yet. */
async function takeToldConsents(unit: Unit, told: readonly Told[], at: number): Promise<void> {
  if (told.length === 0) return;
  const threads = await threadsFor(
    unit,
    told.map(({ channel, from }) => ({ address: from, channel })),
    { at, source: 'wrote' },
  );
  await toldByProviders(
    unit,
    told.flatMap(({ item, channel, from, by, request }) => {
      const thread = threads.get(threadKey(from, channel));
      return thread ? [{ item, channel, by, contactId: thread.contactId, requestId: request.id }] : [];
    }),
    at,
  );
}

/** Messages that receipts say were not delivered, each with the cause. */
async function failedFor(unit: Unit, matched: ReadonlyMap<ReceiptItem, string>, { channels }: ReadContext) {
  const failed = [...matched].filter(([{ state }]) => state === 'undelivered');
  const messages = await unit.messages.allBy(
    'id',
    failed.map(([, id]) => id),
  );
  return failed.flatMap(([item, id]) => {
    const { cause } = item;
    const message = messages.find((row) => row.id === id);
    const channel = message && channels.get(message.channel_id);
    return message && channel ? [{ message, channel, cause, said: item.said }] : [];
  });
}

/** A receipt that says its recipient declined, at the provider. */
function declinedIn(
  { cause, ...failed }: Awaited<ReturnType<typeof failedFor>>[number],
  { accounts }: ReadContext,
): { message: MessageRow; channel: ChannelRow; said?: string; by: string }[] {
  if (cause !== 'opted-out') return [];
  return [{ ...failed, by: accounts.get(failed.channel.account_id)?.name ?? 'the provider' }];
}

function lineOf(ctx: AppContext, request: InboundRequestRow, { channels, accounts }: ReadContext) {
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

/** A word of a provider's that its profile does not list, and where the profile would. */
export interface UnlistedWord {
  what: UnreadPart['what'];
  word: string;
}

/** What is longer is no word that somebody would list. */
const LONGEST_WORD = 100;

function unlistedIn(unread: readonly UnreadPart[]): UnlistedWord[] {
  const words = unread.flatMap(({ what, unlisted: word }) =>
    word === undefined || word.length > LONGEST_WORD ? [] : [{ what, word }],
  );
  return words.filter((each, place) => words.findIndex(({ word }) => word === each.word) === place).slice(0, 10);
}

interface Worked {
  texts: readonly ReceivedText[];
  whole: readonly ReceivedText[];
  made: ReadonlyMap<ReceivedText, MessageRow>;
  receipts: readonly ReceivedReceipt[];
  matched: ReadonlyMap<ReceiptItem, string>;
  /** By request. */
  unlisted: ReadonlyMap<string, UnlistedWord[]>;
}

interface Outcome {
  messages: string[];
  repeats: number;
  unmatched: number;
  part?: string;
  unlisted?: UnlistedWord[];
}

/** The reasons of all parts that were not read, each once. */
function unreadWords(unread: readonly UnreadPart[]): string {
  const reasons = [...new Set(unread.map(({ reason }) => reason))];
  return reasons.slice(0, 5).join('; ') + (reasons.length > 5 ? `; and ${reasons.length - 5} more` : '');
}

async function setAside(unit: Unit, request: InboundRequestRow, at: number, cause: CauseCode, reason: string) {
  const values = { state: 'unreadable', cause, outcome: { reason }, processed_at: at } as const;
  await unit.inbound.change({ id: request.id }, values);
  await noteSetAside(unit, 'inbound', request.id, reason, at);
}

/** Receipts of an account-wide address or a trunk may be about any channel of the account. */
function channelsFor(
  request: InboundRequestRow,
  account: ProviderAccountRow,
  connector: Connector,
  around: ReadContext,
): string[] {
  if (connector.inboundBelongsTo === 'number') return [request.channel_id];
  return [...around.channels.values()].flatMap((channel) => (isOver(channel, account, around) ? [channel.id] : []));
}

/** Whether a channel is listened to over an account: its own, or the other one while its number moves. */
function isOver(channel: ChannelRow, account: ProviderAccountRow, { moving }: ReadContext): boolean {
  return channel.account_id === account.id || (moving.get(account.id) ?? []).includes(channel.id);
}

/**
 * The channel a text belongs to: the one whose number it was sent to. Where each number has
 * an address of its own and another's was called, `posted` is that other channel. A number
 * nobody has here stays with the channel it was posted to, so that nothing is lost; over a
 * trunk there is none.
 */
function homeOf(
  request: InboundRequestRow,
  item: Pick<TextItem, 'to'>,
  account: ProviderAccountRow,
  connector: Connector,
  around: ReadContext,
): { channel: ChannelRow; posted?: ChannelRow } | undefined {
  const { channels } = around;
  const posted = channels.get(request.channel_id);
  const to = addressedTo(item.to, posted);
  if (posted && posted.address === to) return { channel: posted };
  const channel = [...channels.values()].find((row) => isOver(row, account, around) && row.address === to);
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
  return ofTelephone(channel) ? addressedTo(from, channel) : from;
}

/** What came of each request, for its own page: messages made, repeats, parts that wait, receipts matched or kept. */
async function noteOutcomes(unit: Unit, { texts, whole, made, receipts, matched, unlisted }: Worked): Promise<void> {
  const outcomes = new Map<string, Outcome>();
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
  for (const [id, words] of unlisted) of({ id }).unlisted = words;
  // One statement for all: a batch may hold hundreds of requests.
  const values = [...outcomes].map(([id, outcome]) => ({ id, outcome }));
  await unit.execute(
    `UPDATE inbound_requests SET outcome = (SELECT json_extract(value, '$.outcome') FROM json_each(:values) WHERE json_extract(value, '$.id') = inbound_requests.id)
      WHERE id IN (:ids)`,
    { values: JSON.stringify(values), ids: values.map((entry) => entry.id) },
  );
}
