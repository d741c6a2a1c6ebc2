/**
 * What is known of each hop of a channel or app connection. A hop is proven only by
 * evidence that began after the last change touching it; a change makes it unproven;
 * a fault that only a broken set-up can produce makes it broken.
 */
import { type CauseCode, cause } from '../delivery/causes';
import type { HopName } from './hops';

export type ProofState = 'proven' | 'unproven' | 'broken' | 'not-applicable';

export interface Proof {
  state: ProofState;
  /** When this state began. */
  since: number;
  /** Evidence that began before this does not count. */
  changedAt: number;
  /** The latest evidence: when it was seen and what to open to read it. */
  evidenceAt?: number;
  evidenceRef?: string;
  cause?: CauseCode;
  /** What somebody changed, when that is why it is unproven. */
  note?: string;
}

export type ProofFact =
  | {
      kind: 'credential-accepted' | 'delivered' | 'undelivered' | 'inbound-arrived' | 'called-in' | 'called-out';
      began: number;
      at: number;
      ref: string;
    }
  | { kind: 'fault'; cause: CauseCode; began: number; at: number; ref: string }
  | { kind: 'changed'; touches: readonly HopName[]; at: number; note: string };

/** What each kind of evidence proves. A failed delivery still proves that receipts come back. */
const PROVES: Record<Exclude<ProofFact['kind'], 'fault' | 'changed'>, readonly HopName[]> = {
  'credential-accepted': ['credential'],
  delivered: ['credential', 'outbound', 'receipt'],
  undelivered: ['receipt'],
  'inbound-arrived': ['inbound'],
  'called-in': ['call-in'],
  'called-out': ['call-out'],
};

export function unproven(at: number, note?: string): Proof {
  return { state: 'unproven', since: at, changedAt: at, note };
}

/** The hop's proof after a fact; the same object when the fact says nothing about this hop. */
export function applyFact(hop: HopName, proof: Proof, fact: ProofFact): Proof {
  if (proof.state === 'not-applicable') return proof;
  if (fact.kind === 'changed') {
    return fact.touches.includes(hop) ? unproven(fact.at, fact.note) : proof;
  }
  if (fact.began < proof.changedAt || fact.at < (proof.evidenceAt ?? 0)) return proof;
  if (fact.kind === 'fault') {
    if (cause(fact.cause).breaks !== hop) return proof;
    const since = proof.state === 'broken' && proof.cause === fact.cause ? proof.since : fact.at;
    return {
      state: 'broken',
      since,
      changedAt: proof.changedAt,
      evidenceAt: fact.at,
      evidenceRef: fact.ref,
      cause: fact.cause,
    };
  }
  if (!PROVES[fact.kind].includes(hop)) return proof;
  const since = proof.state === 'proven' ? proof.since : fact.at;
  return { state: 'proven', since, changedAt: proof.changedAt, evidenceAt: fact.at, evidenceRef: fact.ref };
}

/** Evidence as old as this no longer says how things are. */
export const EVIDENCE_LASTS = 30 * 24 * 3_600_000;

/** A proof as it counts now: one whose latest evidence is too old is unproven, and says so. */
export function agedProof(proof: Proof, now: number): Proof {
  const { evidenceAt } = proof;
  if (proof.state !== 'proven' || evidenceAt === undefined || now - evidenceAt <= EVIDENCE_LASTS) return proof;
  return {
    ...proof,
    state: 'unproven',
    since: evidenceAt + EVIDENCE_LASTS,
    note: `the latest evidence, which is more than ${EVIDENCE_LASTS / 86_400_000} days old`,
  };
}

/** The worst state among hops decides what a summary shows: broken, then unproven, then proven. */
export function worstOf(states: readonly ProofState[]): ProofState {
  return (['broken', 'unproven', 'proven'] as const).find((state) => states.includes(state)) ?? 'not-applicable';
}
