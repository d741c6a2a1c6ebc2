import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { cause, causeCodes } from './causes';
import { type MessageEvent, type Standing, standingAfter } from './lifecycle';

const event = (kind: MessageEvent['kind'], at: number, more: Partial<MessageEvent> = {}): MessageEvent => ({
  kind,
  at,
  ...more,
});
const standing = (events: readonly MessageEvent[]) =>
  events.reduce<Standing | undefined>((before, next) => standingAfter(next, before), undefined);
const state = (...events: MessageEvent[]) => standing(events)?.state;

describe('the life cycle', () => {
  test('goes its usual way', () => {
    const way = [
      event('queued', 1, { attempt: 0 }),
      event('attempted', 2, { attempt: 1 }),
      event('accepted', 3, { attempt: 1 }),
      event('sent', 4),
      event('delivered', 5),
      event('read', 6),
    ];
    expect(way.map((_, index) => state(...way.slice(0, index + 1)))).toEqual([
      'queued',
      'sending',
      'sent',
      'sent',
      'delivered',
      'read',
    ]);
  });

  test('a deferred attempt is queued again and the next one sends again', () => {
    const events = [
      event('queued', 1, { attempt: 0 }),
      event('attempted', 2, { attempt: 1 }),
      event('deferred', 3, { attempt: 1, cause: 'throttled' }),
    ];
    expect(standing(events)).toMatchObject({ state: 'queued', cause: 'throttled' });
    expect(state(...events, event('attempted', 4, { attempt: 2 }))).toBe('sending');
  });

  test('a receipt before the answer, and the answer after it', () => {
    expect(
      state(event('attempted', 1, { attempt: 1 }), event('delivered', 2), event('accepted', 3, { attempt: 1 })),
    ).toBe('delivered');
  });

  test('arrival is believed over loss, whichever came first', () => {
    const arrived = event('delivered', 5);
    const lost = event('undelivered', 9, { cause: 'handset-unreachable' });
    for (const events of [
      [arrived, lost],
      [lost, arrived],
    ]) {
      expect(standing(events)).toMatchObject({ state: 'delivered', at: 5, cause: undefined });
    }
  });

  test('an uncertain message is settled by a receipt, or sent again by a person', () => {
    const unsure = [
      event('attempted', 1, { attempt: 1 }),
      event('uncertain', 2, { attempt: 1, cause: 'outcome-unknown' }),
    ];
    expect(state(...unsure)).toBe('uncertain');
    expect(state(...unsure, event('delivered', 3))).toBe('delivered');
    expect(state(...unsure, event('requeued', 3, { attempt: 1 }))).toBe('queued');
  });

  test('what changes nothing gives back what was there', () => {
    const there = standingAfter(event('delivered', 5));
    expect(standingAfter(event('accepted', 2, { attempt: 1 }), there)).toBe(there);
    expect(standingAfter(event('delivered', 5), there)).toBe(there);
    expect(standingAfter(event('delivered', 4), there)).not.toBe(there);
  });
});

describe('properties of the projection', () => {
  const anyEvent = fc.record({
    kind: fc.constantFrom<MessageEvent['kind'][]>(
      'queued',
      'attempted',
      'deferred',
      'uncertain',
      'requeued',
      'accepted',
      'refused',
      'sent',
      'delivered',
      'undelivered',
      'read',
      'settled',
    ),
    at: fc.integer({ min: 0, max: 50 }),
    attempt: fc.integer({ min: 0, max: 4 }),
    cause: fc.option(fc.constantFrom(...causeCodes()), { nil: undefined }),
  });
  const anyEvents = fc.array(anyEvent, { minLength: 1, maxLength: 12 });

  test('the order in which events are learned does not matter', () => {
    fc.assert(
      fc.property(anyEvents, fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), (events, noise) => {
        const shuffled = events
          .map((entry) => [entry, noise.next().value as number] as const)
          .sort((a, b) => a[1] - b[1])
          .map(([entry]) => entry);
        expect(standing(shuffled)).toEqual(standing(events));
      }),
    );
  });

  test('hearing something twice changes nothing', () => {
    fc.assert(
      fc.property(anyEvents, (events) => {
        expect(standing([...events, ...events])).toEqual(standing(events));
      }),
    );
  });

  test('more knowledge never takes back an arrival', () => {
    fc.assert(
      fc.property(anyEvents, anyEvents, (before, after) => {
        const arrived = ['delivered', 'read'].includes(state(...before) ?? '');
        if (arrived) expect(['delivered', 'read']).toContain(state(...before, ...after));
      }),
    );
  });
});

test('every cause says what is wrong and what to do, in sentences', () => {
  for (const code of causeCodes()) {
    const { title, explain, remedy } = cause(code);
    expect(title, code).toMatch(/^[A-Z].*[^.]$/);
    expect(explain({}), code).toMatch(/^[A-Z].*\.$/s);
    expect(remedy, code).toMatch(/^[A-Z].*\.$/s);
    expect(explain({ who: 'Brackwater', said: 'why', subject: 'it' }), code).not.toMatch(/undefined|null/);
  }
});
