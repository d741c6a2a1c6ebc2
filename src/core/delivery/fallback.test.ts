import { expect, test } from 'vitest';
import { type FallbackRule, fallbackFor, isInDoubt, judgeFallback } from './fallback';
import type { MessageEventKind, MessageState } from './lifecycle';

const rule = (more: Partial<FallbackRule>): FallbackRule => ({
  id: 'fbr_1',
  to: 'chn_2',
  countries: null,
  what: 'all',
  after: null,
  twice: false,
  ...more,
});
const events = (...kinds: (MessageEventKind | 'unknown')[]) =>
  kinds.map((kind) => (kind === 'unknown' ? { kind: 'deferred' as const, unknown: true } : { kind }));
const judge = (state: MessageState, kinds: Parameters<typeof events>, twice = false, cause: never | null = null) =>
  judgeFallback({ state, cause, events: events(...kinds) }, { twice, sameAddress: true });

test('the first rule that fits counts, by country and by what it is', () => {
  const rules = [
    rule({ id: 'fr', countries: ['FR'] }),
    rule({ id: 'codes', what: 'codes' }),
    rule({ id: 'rest', what: 'others' }),
  ];
  expect(fallbackFor(rules, { country: 'FR', code: true })?.id).toBe('fr');
  expect(fallbackFor(rules, { country: 'GB', code: true })?.id).toBe('codes');
  expect(fallbackFor(rules, { country: undefined, code: false })?.id).toBe('rest');
  expect(fallbackFor(rules.slice(0, 1), { country: undefined, code: false })).toBeUndefined();
});

test('without leave for two, nothing that may have been taken goes a second way', () => {
  const kinds: (MessageEventKind | 'unknown')[] = [
    'attempted',
    'unknown',
    'uncertain',
    'requeued',
    'deferred',
    'refused',
  ];
  // Every history of three such events: where the provider may have it and nothing was heard of it, the second way is not taken.
  for (const a of kinds)
    for (const b of kinds)
      for (const c of kinds) {
        const history = events('queued', a, b, c);
        const unknown = [a, b, c].some((kind) => kind === 'unknown' || kind === 'uncertain');
        expect(isInDoubt(history)).toBe(unknown);
        for (const state of ['failed', 'queued', 'uncertain', 'sent'] as const) {
          const once = judgeFallback({ state, cause: 'gave-up', events: history }, { twice: false, sameAddress: true });
          if (unknown || state === 'uncertain' || state === 'sent') expect(once.is).not.toBe('goes');
          const twice = judgeFallback({ state, cause: 'gave-up', events: history }, { twice: true, sameAddress: true });
          expect(twice.is).toBe('goes');
        }
      }
});

test('what is certain goes at once', () => {
  expect(judge('failed', ['queued', 'attempted', 'accepted', 'undelivered']).is).toBe('goes');
  expect(judge('queued', ['queued', 'attempted', 'deferred']).is).toBe('goes');
  // Asked again with its reference and heard of: there is one, and it is lost.
  expect(judge('failed', ['queued', 'attempted', 'unknown', 'attempted', 'accepted', 'undelivered']).is).toBe('goes');
  // Sent again by hand: one copy is lost, the other may not be.
  expect(judge('failed', ['uncertain', 'requeued', 'accepted', 'undelivered'])).toEqual({
    is: 'stays',
    because: 'in-doubt',
  });
});

test('what arrived, what is being handed over, and what no other channel would change', () => {
  expect(judge('delivered', ['accepted', 'delivered'], true).is).toBe('arrived');
  expect(judge('sending', ['queued', 'attempted'], true).is).toBe('soon');
  const failed = (cause: 'opted-out' | 'number-not-in-service', sameAddress: boolean) =>
    judgeFallback({ state: 'failed', cause, events: [] }, { twice: true, sameAddress });
  expect(failed('opted-out', false)).toEqual({ is: 'stays', because: 'of-the-message' });
  expect(failed('number-not-in-service', true)).toEqual({ is: 'stays', because: 'of-the-address' });
  expect(failed('number-not-in-service', false)).toEqual({ is: 'goes' });
});
