/**
 * Broadcasts of the past week, as they would have left their rows: one that went well, one that held itself at its first
 * steps, one that failed in one country; and one that is prepared and waits to be started.
 */
import { type BroadcastDefinition, EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import type { CauseCode } from '../src/core/delivery/causes';
import { standingAfter } from '../src/core/delivery/lifecycle';
import { measureText } from '../src/core/text/measure';
import {
  askForPlan,
  createBroadcast,
  emptyBroadcast,
  saveBroadcast,
} from '../src/operations/broadcasts/writing/drafts';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { standingColumns, toCoreEvent } from '../src/operations/messages/messageEvents';
import { threadKey, threadsFor } from '../src/operations/threads/findOrCreateConversation';
import { pastId } from '../src/store/ids';
import type { BroadcastRecipientRow, BroadcastRow, MessageEventRow, MessageRow } from '../src/store/schema/rows';
import { blankMessage, event, type HistoryPlaces } from './pastRows';
import { BOATERS } from './talk';

const DAY = 86_400_000;
const MINUTE = 60_000;
const OFFICE = { id: 'usr_office', name: 'Priya Lockhart' };

interface Past {
  name: string;
  text: string;
  daysAgo: number;
  /** Positions among the boaters. */
  people: readonly number[];
  /** How each ended; delivered where nothing is said. */
  fails?: (index: number) => CauseCode | undefined;
  /** So many have left. */
  left?: number;
  replies?: readonly number[];
  held?: BroadcastRow['held'];
}

const ALL = BOATERS.map((_, index) => index);
const IN_FRANCE = ALL.filter((index) => BOATERS[index]?.number.startsWith('+33'));

const PAST: Past[] = [
  {
    name: 'Tollgate closed for repairs',
    text: 'Tollgate lock is closed on Thursday from 08:00 to 12:00. Please moor below the bridge until it opens.',
    daysAgo: 5,
    people: ALL.filter((index) => index !== 8 && index !== 15),
    replies: [0, 3, 6],
  },
  {
    name: 'Season tickets, old list',
    text: 'Season tickets for the coming year are on sale at the office.',
    daysAgo: 3,
    people: ALL,
    left: 6,
    fails: (index) => (index > 1 ? 'number-not-in-service' : undefined),
    held: {
      code: 'failures',
      problem: '4 of 6 failed, 66.7 %; it holds above 10 %.',
      remedy: 'Read below what they failed for. Resume when that is over, or cancel.',
      at: 0,
      underWay: 0,
    },
  },
  {
    name: 'Water points shut off',
    text: 'Frost is expected: the water points are shut off from tonight until further notice.',
    daysAgo: 2,
    people: [0, 1, 2, 3, 4, 5, 6, 7, 9, 16],
    fails: (index) => (IN_FRANCE.includes(index) ? 'carrier-refused' : undefined),
  },
];

export async function writeBroadcasts(ctx: AppContext, places: HistoryPlaces, now: number): Promise<void> {
  for (const past of PAST) await writePast(ctx, places, past, now);
  const { id } = await createBroadcast(ctx, SYSTEM, 'Heron Staircase stoppage');
  const { version } = await saveBroadcast(ctx, SYSTEM, id, {
    definition: definitionOf(
      places,
      'Heron Staircase is closed from Monday, {{ first_name | default: "boater" }}. Will you wait or turn back?',
      { when: { at: 'local', day: new Date(now + DAY).toISOString().slice(0, 10), time: '09:00', passed: 'next-day' } },
    ),
    version: 1,
  });
  // The engine plans it when it starts.
  await askForPlan(ctx, SYSTEM, id, version);
}

function definitionOf(
  { harbour }: HistoryPlaces,
  text: string,
  more: Partial<BroadcastDefinition> = {},
): BroadcastDefinition {
  return {
    ...EMPTY_DEFINITION,
    message: { ...EMPTY_DEFINITION.message, text },
    audience: { include: [{ by: 'everybody' }], exclude: [] },
    channels: [harbour.id],
    ...more,
  };
}

async function writePast(ctx: AppContext, places: HistoryPlaces, past: Past, now: number): Promise<void> {
  const began = Math.floor((now - past.daysAgo * DAY) / DAY) * DAY + 10 * 60 * MINUTE;
  const id = pastId('bct', began);
  const channel = places.harbour;
  const { left = past.people.length } = past;
  await ctx.store.write(async (unit) => {
    const going = past.people.map((index) => ({ index, number: BOATERS[index]?.number ?? '' }));
    const threads = await threadsFor(
      unit,
      going.map(({ number }) => ({ address: number, channel })),
      { at: began, source: 'sent' },
    );
    await unit.broadcasts.insert([
      {
        ...emptyBroadcast(id, past.name, OFFICE, began - 20 * MINUTE),
        state: past.held ? 'held' : 'finished',
        version: 4,
        definition: definitionOf(places, past.text),
        started_by: OFFICE.id,
        started_by_name: OFFICE.name,
        started_at: began,
        ended_at: past.held ? null : began + 2 * MINUTE,
        changed_at: began + 2 * MINUTE,
        phase: past.held ? 'first' : 'all',
        held: past.held ? { ...past.held, at: began + 2 * MINUTE } : null,
      },
    ]);
    const messages: MessageRow[] = [];
    const events: MessageEventRow[] = [];
    const rows: BroadcastRecipientRow[] = [];
    for (const [place, { index, number }] of going.entries()) {
      const thread = threads.get(threadKey(number, channel));
      if (!thread) continue;
      const country = (await unit.contacts.one({ id: thread.contactId }))?.country ?? '';
      const message =
        place < left ? messageTo(past, places, { id, thread, number, index }, began + place * 200) : undefined;
      if (message) {
        messages.push(message.row);
        events.push(...message.events);
      }
      rows.push({
        broadcast_id: id,
        seq: place + 1,
        contact_id: thread.contactId,
        fields: null,
        kind: 'phone',
        scope: '',
        value: number,
        state: message ? (message.row.state as BroadcastRecipientRow['state']) : 'planned',
        reason: message?.row.cause ?? '',
        said: null,
        channel_id: channel.id,
        country,
        due_at: began,
        language: null,
        parts: 1,
        price_micros: 38_000,
        price_currency: 'GBP',
        message_id: message?.row.id ?? null,
        replied_at: null,
        pressed: null,
        opted_out_at: null,
      });
    }
    await unit.messages.insert(messages);
    await unit.events.insert(events);
    await unit.broadcastRecipients.insert(rows);
    for (const place of past.replies ?? [])
      await unit.broadcastRecipients.change(
        { broadcast_id: id, seq: place + 1 },
        { replied_at: began + (place + 3) * MINUTE },
      );
  });
}

function messageTo(
  { name, text, fails }: Past,
  { harbour }: HistoryPlaces,
  {
    id,
    thread,
    number,
    index,
  }: { id: string; thread: { contactId: string; conversationId: string }; number: string; index: number },
  at: number,
): { row: MessageRow; events: MessageEventRow[] } {
  const measure = measureText(text);
  const row: MessageRow = {
    ...blankMessage(harbour, thread, text, at),
    direction: 'out',
    sender: harbour.address,
    recipient: number,
    encoding: measure.encoding,
    parts: measure.parts.length,
    origin_kind: 'broadcast',
    origin_id: id,
    origin_name: name,
    in_reply_to: null,
    provider_message_id: `bwt_b${at.toString(36)}${index.toString(36)}`,
    price_micros: 38_000,
    price_currency: 'GBP',
  };
  const failed = fails?.(index);
  const events = [
    event(row, 'queued', at, { attempt: 0, detail: { by: name } }),
    event(row, 'attempted', at + 40, { attempt: 1 }),
    event(row, 'accepted', at + 95, { attempt: 1 }),
    failed ? event(row, 'undelivered', at + 5200, { cause: failed }) : event(row, 'delivered', at + 2400),
  ];
  const standing = events
    .map(toCoreEvent)
    .reduce((before, next) => standingAfter(next, before), standingAfter({ kind: 'queued', at }));
  return { row: { ...row, ...standingColumns(standing) }, events };
}
