/**
 * How eagerly an app is called that may be in trouble. While it answers, as many calls at
 * once as are allowed. After a few failures in a row the breaker opens: one call at a time
 * probes the app after growing delays. Once it answers again, the number at once doubles
 * with each success, so that what has piled up does not knock it over a second time.
 */
export interface CircuitBreaker {
  /** In a row, while the breaker is closed. */
  failures: number;
  /** Calls at once. */
  atOnce: number;
  /** Epoch milliseconds since when no call succeeded; absent while calls succeed. */
  failingSince?: number;
  /** Present while calls are held back. */
  open?: {
    since: number;
    /** Calls made while it is open that failed, the one that opened it included. */
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

const FAILURES_TO_OPEN = 3;
const SECOND = 1000;
const MINUTE = 60 * SECOND;
/** Before each further probe; the last one repeats. An app that comes back waits at most this long for its events. */
const PROBE_DELAYS = [5 * SECOND, 15 * SECOND, 30 * SECOND, MINUTE, 2 * MINUTE, 5 * MINUTE, 10 * MINUTE] as const;

export function closedBreaker(most: number): CircuitBreaker {
  return { failures: 0, atOnce: most };
}

export function breakerAfter(breaker: CircuitBreaker, outcome: CallOutcome, most: number): CircuitBreaker {
  if (outcome.ok) return { failures: 0, atOnce: Math.min(most, breaker.atOnce * 2) };
  const failingSince = breaker.failingSince ?? outcome.at;
  if (breaker.open) {
    // Calls that were under way when the breaker opened tell nothing new.
    if (outcome.began < breaker.open.since) return breaker;
    const probes = breaker.open.probes + 1;
    return { ...breaker, open: { ...breaker.open, probes, retryAt: retryAt(probes, outcome) } };
  }
  const failures = breaker.failures + 1;
  if (failures < FAILURES_TO_OPEN) return { ...breaker, failures, failingSince };
  return { failures, atOnce: 1, failingSince, open: { since: outcome.at, probes: 1, retryAt: retryAt(1, outcome) } };
}

function retryAt(probes: number, { at, askedDelay = 0, jitter }: CallOutcome): number {
  const delay = PROBE_DELAYS[Math.min(probes, PROBE_DELAYS.length) - 1] ?? 0;
  return Math.round(at + Math.max(delay * (1 + jitter / 4), askedDelay));
}

/** How many calls may leave now, with `inFlight` under way. */
export function roomIn(breaker: CircuitBreaker, now: number, inFlight: number): number {
  if (breaker.open && now < breaker.open.retryAt) return 0;
  return Math.max(0, breaker.atOnce - inFlight);
}
