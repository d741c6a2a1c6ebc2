/**
 * A message's state is a projection of its events. Receipts may come late, twice or in
 * any order, so the states form a lattice and the projection is a maximum: the same
 * events in any order, with any repeats, give the same state.
 */
import type { CauseCode } from './causes';

export type MessageState = 'queued' | 'sending' | 'uncertain' | 'sent' | 'failed' | 'delivered' | 'read' | 'received';

export type MessageEventKind =
  /** Inbound: stored and read. */
  | 'received'
  /** Outbound, before the provider has it. Each attempt has a number from 1. */
  | 'queued'
  | 'attempted'
  | 'deferred'
  | 'uncertain'
  | 'requeued'
  /** Outbound, said by the provider. */
  | 'accepted'
  | 'refused'
  | 'sent'
  | 'delivered'
  | 'undelivered'
  | 'read'
  /** Said by a person about an uncertain message. */
  | 'settled';

export interface MessageEvent {
  kind: MessageEventKind;
  /** Epoch milliseconds at which it happened, by the clock of whoever says so. */
  at: number;
  attempt?: number;
  cause?: CauseCode;
}

/** Where a message stands: all that later events are judged by, so that earlier ones need not be read again. */
export interface Standing {
  state: MessageState;
  /** When this state was first reached. */
  at: number;
  cause?: CauseCode;
  /** Events of a higher rank move the message on. */
  rank: number;
}

const STATE_OF: Record<MessageEventKind, MessageState> = {
  received: 'received',
  queued: 'queued',
  attempted: 'sending',
  deferred: 'queued',
  uncertain: 'uncertain',
  requeued: 'queued',
  accepted: 'sent',
  sent: 'sent',
  refused: 'failed',
  undelivered: 'failed',
  delivered: 'delivered',
  settled: 'delivered',
  read: 'read',
};

/** Stages never run backwards. Inside stage 0 the later attempt wins, then the later step of it. */
const STAGE: Record<MessageState, number> = {
  received: 0,
  queued: 0,
  sending: 0,
  uncertain: 0,
  sent: 1,
  failed: 2,
  delivered: 3,
  read: 4,
};
const STEP: Partial<Record<MessageEventKind, number>> = {
  queued: 0,
  attempted: 1,
  uncertain: 2,
  deferred: 3,
  requeued: 4,
};

function rank(event: MessageEvent): number {
  const stage = STAGE[STATE_OF[event.kind]];
  return stage > 0 ? stage * 1e9 : (event.attempt ?? 0) * 10 + (STEP[event.kind] ?? 0);
}

/**
 * Among events of equal rank the earliest is kept, so that repeats change nothing; a
 * cause decides between two that happened in the same millisecond.
 */
function outranks(candidate: Standing, best: Standing): boolean {
  if (candidate.rank !== best.rank) return candidate.rank > best.rank;
  if (candidate.at !== best.at) return candidate.at < best.at;
  return (candidate.cause ?? '') > (best.cause ?? '');
}

/** Where a message stands after one event, or one more. Returns the same object where the event changes nothing. */
export function standingAfter(event: MessageEvent, before?: Standing): Standing {
  const standing = { state: STATE_OF[event.kind], at: event.at, cause: event.cause, rank: rank(event) };
  return !before || outranks(standing, before) ? standing : before;
}

/** Stones on the cairn: 1 queued, 2 sent, 3 delivered, 4 read. */
export function progressOf(state: MessageState): 1 | 2 | 3 | 4 {
  if (state === 'read') return 4;
  if (state === 'delivered') return 3;
  return state === 'sent' || state === 'failed' || state === 'received' ? 2 : 1;
}
