/** Appends message events and brings the projected state, the proofs and the apps in step. */

import { type MessageEvent, type Standing, standingAfter } from '../../core/delivery/lifecycle';
import { groupBy } from '../../core/groupBy';
import type { MessageEventRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { emitMessageEvents, TOLD_STATES } from '../apps/webhooks';
import { noteMessages } from '../context';
import { followFirstWay } from './secondWay';

export type NewMessageEvent = Pick<MessageEventRow, 'message_id' | 'kind' | 'at'> & Partial<MessageEventRow>;

/** What else became known of a message with its events. */
export type Learned = Pick<MessageRow, 'provider_message_id' | 'price_micros' | 'price_currency'>;

/** By message id, about messages of the events. */
export interface Beside {
  /** Rows as they were read before: of these only the standing is read again. */
  rows?: ReadonlyMap<string, MessageRow>;
  learned?: ReadonlyMap<string, Learned>;
}

/** Returns the messages concerned, as they are afterwards. */
export async function appendMessageEvents(
  unit: Unit,
  events: readonly NewMessageEvent[],
  at: number,
  { rows = new Map(), learned = new Map() }: Beside = {},
): Promise<Map<string, MessageRow>> {
  if (events.length === 0) return new Map();
  await unit.events.insert(
    events.map((event) => ({
      attempt: null,
      cause: null,
      detail: null,
      exchange_id: null,
      inbound_request_id: null,
      recorded_at: at,
      ...event,
    })),
  );
  const eventsOf = groupBy(events, (event) => event.message_id);
  const before = await messagesNow(unit, [...eventsOf.keys()], rows);
  const after = before.map((message) => ({
    ...message,
    ...learned.get(message.id),
    ...standingColumns((eventsOf.get(message.id) ?? []).map(toCoreEvent).reduce(later, standingIn(message))),
  }));
  await unit.messages.changeEach(
    'id',
    after
      .filter((message, index) => learned.has(message.id) || hasMoved(before[index] as MessageRow, message))
      .map((message) => pick(message, learned.size > 0 ? [...STANDING, ...LEARNED] : STANDING)),
  );
  const unneeded = await followFirstWay(
    unit,
    after.filter((message, index) => hasMoved(before[index] as MessageRow, message)),
    at,
  );
  const told = after.filter((message, index) => isNews(before[index] as MessageRow, message));
  await emitMessageEvents(unit, 'windgap.message.state', told, at);
  await noteMessages(unit, at, after);
  if (unneeded.length > 0)
    await appendMessageEvents(
      unit,
      unneeded.map((message_id) => ({ message_id, kind: 'refused', at, attempt: 0, cause: 'first-way-arrived' })),
      at,
    );
  return new Map(after.map((message) => [message.id, message]));
}

async function messagesNow(
  unit: Unit,
  ids: readonly string[],
  rows: ReadonlyMap<string, MessageRow>,
): Promise<MessageRow[]> {
  const unread = await unit.messages.allBy(
    'id',
    ids.filter((id) => !rows.has(id)),
  );
  const standing = await unit.messages.allBy(
    'id',
    ids.filter((id) => rows.has(id)),
    STANDING,
  );
  return [...unread, ...standing.map((row) => ({ ...(rows.get(row.id) as MessageRow), ...row }))];
}

const STANDING = ['id', 'state', 'state_at', 'state_rank', 'cause'] as const;
const LEARNED = ['provider_message_id', 'price_micros', 'price_currency'] as const;

function pick<Row extends object, Name extends keyof Row>(row: Row, names: readonly Name[]): Pick<Row, Name> {
  return Object.fromEntries(names.map((name) => [name, row[name]])) as Pick<Row, Name>;
}

function later(before: Standing, event: MessageEvent): Standing {
  return standingAfter(event, before);
}

function standingIn({ state, state_at, state_rank, cause }: MessageRow): Standing {
  return { state, at: state_at, rank: state_rank, cause: cause ?? undefined };
}

export function standingColumns({ state, at, rank, cause }: Standing) {
  return { state, state_at: at, state_rank: rank, cause: cause ?? null };
}

function hasMoved(before: MessageRow, after: MessageRow): boolean {
  return STANDING.some((name) => before[name] !== after[name]);
}

/** A time that was corrected is no news to an app. */
function isNews(before: MessageRow, after: MessageRow): boolean {
  return TOLD_STATES.includes(after.state) && (before.state !== after.state || before.cause !== after.cause);
}

export function toCoreEvent(
  row: Pick<MessageEventRow, 'kind' | 'at'> & Partial<Pick<MessageEventRow, 'attempt' | 'cause'>>,
): MessageEvent {
  return { kind: row.kind, at: row.at, attempt: row.attempt ?? undefined, cause: row.cause ?? undefined };
}
