/** How an installation stands as a whole, told to whoever is outside it: in a heartbeat, and on a page without a sign-in. */
import type { HopName } from './proof/hops';
import type { ProofState } from './proof/proofs';

export type Status = 'well' | 'at-risk' | 'broken' | 'not-known';

export const STATUS_WORDS: Record<Status, string> = {
  well: 'Nothing is known to be wrong',
  'at-risk': 'Something is at risk',
  broken: 'Something is broken',
  'not-known': 'Not known',
};

export interface StatusFacts {
  /** The engine was heard of lately. */
  engine: boolean;
  errors: number;
  attention: number;
  /** Something has been examined at all. */
  examined: boolean;
}

/** What nobody looked at is not well. */
export function statusOf({ engine, errors, attention, examined }: StatusFacts): Status {
  if (!engine || errors > 0) return 'broken';
  if (!examined) return 'not-known';
  return attention > 0 ? 'at-risk' : 'well';
}

/** Of one channel: broken by an alert or a hop, well where both ways are proven and nothing is said, else not known. */
export function channelStatus(
  proofs: readonly { hop: HopName; state: ProofState }[],
  alerts: readonly ('error' | 'attention')[],
): Status {
  if (alerts.includes('error') || proofs.some(({ state }) => state === 'broken')) return 'broken';
  if (alerts.length > 0) return 'at-risk';
  const counted = proofs.filter(({ state }) => state !== 'not-applicable');
  return counted.length > 0 && counted.every(({ state }) => state === 'proven') ? 'well' : 'not-known';
}

/** Where it is kept how the heartbeat went. */
export const HEARTBEAT_LAST = 'heartbeat-last';

export interface HeartbeatLast {
  /** Epoch milliseconds: of the last attempt, and of the last one that was taken. */
  at: number;
  takenAt?: number;
  /** Why the last one was not taken. */
  said?: string;
  /** In a row. */
  failures: number;
  /** The host it goes to. */
  host: string;
}
