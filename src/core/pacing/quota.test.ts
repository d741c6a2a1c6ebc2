import { expect, test } from 'vitest';
import { quotaFields, spend } from './quota';

const policy = { quota: 3, window: 60 };

test('so many calls in a window, then none until it ends', () => {
  const state = { began: 0, used: 0 };
  expect([1, 2, 3, 4].map((second) => spend(state, policy, second * 1000).allowed)).toEqual([true, true, true, false]);
  expect(spend(state, policy, 59_001)).toEqual({ allowed: false, remaining: 0, resets: 1 });
  expect(spend(state, policy, 60_000)).toEqual({ allowed: true, remaining: 2, resets: 60 });
});

test('a clock that steps back begins a new window instead of an endless one', () => {
  const state = { began: 100_000, used: 3 };
  expect(spend(state, policy, 50_000).allowed).toBe(true);
});

test('the fields say what is left and for how long', () => {
  const state = { began: 0, used: 2 };
  expect(quotaFields(policy, spend(state, policy, 30_000))).toEqual({
    'ratelimit-policy': '"calls";q=3;w=60',
    ratelimit: '"calls";r=0;t=30',
  });
  expect(quotaFields(policy, spend(state, policy, 30_000))['retry-after']).toBe('30');
});
