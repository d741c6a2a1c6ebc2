/** Counts the calls of each API key. */
import { type QuotaPolicy, type QuotaState, type QuotaVerdict, spend } from '../core/pacing/quota';

export interface CallCounter {
  policy: QuotaPolicy;
  count(keyId: string): QuotaVerdict;
}

const MINUTE = 60;

/** Generous by default: it is to stop a loop gone wild, not to ration. */
export function createCallCounter(perMinute: number, now: () => number): CallCounter {
  const policy = { quota: perMinute, window: MINUTE };
  const spent = new Map<string, QuotaState>();
  return {
    policy,
    count(keyId) {
      const state = spent.get(keyId) ?? { began: now(), used: 0 };
      spent.set(keyId, state);
      return spend(state, policy, now());
    },
  };
}
