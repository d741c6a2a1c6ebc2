/**
 * How many calls a caller has left in the present window. Sources: RFC 6585 §4 (429),
 * IETF httpapi "RateLimit header fields for HTTP" (RateLimit-Policy, RateLimit).
 */
export interface QuotaPolicy {
  /** Calls in a window. */
  quota: number;
  /** Length of a window, seconds. */
  window: number;
}

export interface QuotaState {
  /** Epoch milliseconds. */
  began: number;
  used: number;
}

export interface QuotaVerdict {
  allowed: boolean;
  remaining: number;
  /** Seconds until the window ends, at least 1. */
  resets: number;
}

/** Counts one call. The state belongs to one caller and is changed in place. */
export function spend(state: QuotaState, { quota, window }: QuotaPolicy, now: number): QuotaVerdict {
  if (now - state.began >= window * 1000 || now < state.began) {
    state.began = now;
    state.used = 0;
  }
  const allowed = state.used < quota;
  if (allowed) state.used += 1;
  const resets = Math.max(1, Math.ceil((state.began + window * 1000 - now) / 1000));
  return { allowed, remaining: quota - state.used, resets };
}

/** The fields of an answer that tell a caller how it stands. */
export function quotaFields({ quota, window }: QuotaPolicy, verdict: QuotaVerdict): Record<string, string> {
  return {
    'ratelimit-policy': `"calls";q=${quota};w=${window}`,
    ratelimit: `"calls";r=${verdict.remaining};t=${verdict.resets}`,
    ...(verdict.allowed ? {} : { 'retry-after': String(verdict.resets) }),
  };
}
