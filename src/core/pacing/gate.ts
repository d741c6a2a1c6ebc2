/**
 * How eagerly an app is called that may be in trouble. While it answers, as many calls at
 * once as are allowed. After a few failures in a row the gate closes: one call at a time
 * probes the app after growing delays. Once it answers again, the number at once doubles
 * with each success, so that what has piled up does not knock it over a second time.
 */
export interface Gate {
  /** In a row, while the gate is open. */
  failures: number;
  /** Calls at once while open. */
  atOnce: number;
  /** Epoch milliseconds since when no call succeeded; absent while calls succeed. */
  failingSince?: number;
  closed?: {
    since: number;
    /** Calls made through the closed gate that failed, the one that closed it included. */
    probes: number;
    /** When the next probe may leave. */
    retryAt: number;
  };
}

export interface CallOutcome {
  ok: boolean;
  /** Epoch milliseconds. */
  began: number;
  at: number;
  /** What the app asked for in Retry-After, milliseconds. */
  askedDelay?: number;
  /** 0 ≤ jitter < 1. */
  jitter: number;
}

const FAILURES_TO_CLOSE = 3;
const SECOND = 1000;
const MINUTE = 60 * SECOND;
/** Before each further probe; the last one repeats. An app that comes back waits at most this long for its events. */
const PROBE_DELAYS = [5 * SECOND, 15 * SECOND, 30 * SECOND, MINUTE, 2 * MINUTE, 5 * MINUTE, 10 * MINUTE] as const;

export function openGate(most: number): Gate {
  return { failures: 0, atOnce: most };
}

export function gateAfter(gate: Gate, outcome: CallOutcome, most: number): Gate {
  if (outcome.ok) return { failures: 0, atOnce: Math.min(most, gate.atOnce * 2) };
  const failingSince = gate.failingSince ?? outcome.at;
  if (gate.closed) {
    // Calls that were under way when the gate closed tell nothing new.
    if (outcome.began < gate.closed.since) return gate;
    const probes = gate.closed.probes + 1;
    return { ...gate, closed: { ...gate.closed, probes, retryAt: retryAt(probes, outcome) } };
  }
  const failures = gate.failures + 1;
  if (failures < FAILURES_TO_CLOSE) return { ...gate, failures, failingSince };
  return { failures, atOnce: 1, failingSince, closed: { since: outcome.at, probes: 1, retryAt: retryAt(1, outcome) } };
}

function retryAt(probes: number, { at, askedDelay = 0, jitter }: CallOutcome): number {
  const delay = PROBE_DELAYS[Math.min(probes, PROBE_DELAYS.length) - 1] ?? 0;
  return Math.round(at + Math.max(delay * (1 + jitter / 4), askedDelay));
}

/** How many calls may leave now, with `inFlight` under way. */
export function roomIn(gate: Gate, now: number, inFlight: number): number {
  if (gate.closed && now < gate.closed.retryAt) return 0;
  return Math.max(0, gate.atOnce - inFlight);
}
