/**
 * When a failed request is tried again: growing delays with jitter, so that a
 * recovering peer is not met by everything at once.
 */
export interface RetryPlan {
  /** Milliseconds before the second, third … attempt. The last one repeats. */
  delays: readonly number[];
  /** Milliseconds after the first attempt at which trying ends. */
  horizon: number;
}

const SECOND = 1000;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;

/** Standard Webhooks, "Deliverability and reliability": from seconds to hours over three days. */
export const WEBHOOK_RETRIES: RetryPlan = {
  delays: [2 * SECOND, 10 * SECOND, MINUTE, 5 * MINUTE, 30 * MINUTE, 2 * HOUR, 5 * HOUR, 10 * HOUR],
  horizon: 72 * HOUR,
};

/** A text that could not be handed over loses its worth sooner than an event. */
export const SEND_RETRIES: RetryPlan = {
  delays: [2 * SECOND, 5 * SECOND, 15 * SECOND, 30 * SECOND, MINUTE, 5 * MINUTE, 15 * MINUTE],
  horizon: 4 * HOUR,
};

/** What comes back once a day is asked for until a day has passed. */
export const DAILY_RETRIES: RetryPlan = {
  delays: [5 * MINUTE, 15 * MINUTE, 30 * MINUTE, HOUR],
  horizon: 26 * HOUR,
};

export interface RetryInput {
  /** Attempts already made, at least 1. */
  attempts: number;
  firstAttemptAt: number;
  now: number;
  /** What the peer asked for in Retry-After, milliseconds; it is never undercut. */
  askedDelay?: number;
  /** 0 ≤ jitter < 1, usually Math.random(). */
  jitter: number;
}

/** Epoch milliseconds of the next attempt, or undefined when it is time to stop. */
export function nextAttemptAt(plan: RetryPlan, input: RetryInput): number | undefined {
  const base = plan.delays[Math.min(input.attempts, plan.delays.length) - 1] ?? 0;
  const delay = Math.max(base * (1 + input.jitter / 4), input.askedDelay ?? 0);
  const next = Math.round(input.now + delay);
  return next - input.firstAttemptAt > plan.horizon ? undefined : next;
}

/** Retry-After in milliseconds: delay-seconds or an HTTP date (RFC 9110 §10.2.3); undefined when unreadable. */
export function parseRetryAfter(value: string | null | undefined, now: number): number | undefined {
  if (!value) return undefined;
  if (/^\d+$/.test(value.trim())) return Number(value.trim()) * SECOND;
  const date = Date.parse(value);
  return Number.isNaN(date) ? undefined : Math.max(0, date - now);
}
