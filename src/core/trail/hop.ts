/** One hop of a message's way: what is known of it, when it happened, and what to open to read the evidence. */
import { type CauseCode, cause } from '../delivery/causes';
import type { ProofState } from '../proof/proofs';

export interface EvidenceRef {
  kind: 'inbound-request' | 'exchange';
  id: string;
}

export interface TrailHop {
  /** Who or what the message was at. */
  place: string;
  /** What happened there, one sentence without a full stop. */
  what: string;
  state: ProofState;
  /** Epoch milliseconds; undefined when it has not happened. */
  at?: number;
  /** Real time since the hop before, milliseconds. */
  elapsed?: number;
  failure?: { code: CauseCode; title: string; explanation: string; remedy: string };
  /** From where this can be done again: the id of what is stored. */
  again?: string;
  /** Further facts worth reading: retries, repeats, mapped fields. */
  notes: string[];
  evidence: EvidenceRef[];
}

export function explainCause(code: CauseCode, who: string, said?: string, subject?: string) {
  const { title, explain: words, remedy } = cause(code);
  return { code, title, explanation: words({ who, said, subject }), remedy };
}

/** Requests and answers of ours that can be opened. */
export function exchangeEvidence(events: readonly { exchangeId?: string }[]): EvidenceRef[] {
  return events.flatMap((event) => (event.exchangeId ? [{ kind: 'exchange' as const, id: event.exchangeId }] : []));
}

/** Requests of theirs that can be opened. */
export function requestEvidence(events: readonly { inboundRequestId?: string }[]): EvidenceRef[] {
  return events.flatMap((event) =>
    event.inboundRequestId ? [{ kind: 'inbound-request' as const, id: event.inboundRequestId }] : [],
  );
}

/** Clocks of different machines disagree a little, so a hop is never said to have happened before the last one. */
export function withElapsed(hops: TrailHop[]): TrailHop[] {
  let before: number | undefined;
  return hops.map((hop) => {
    if (hop.at === undefined) return hop;
    const elapsed = before === undefined ? undefined : Math.max(0, hop.at - before);
    before = Math.max(before ?? 0, hop.at);
    return { ...hop, elapsed };
  });
}
