import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { DeliveryTest, Expectation } from './deliveryTest';
import { coverageOf, deliveryTest, phonesOf, withRun, wordOf } from './deliveryTest';
import { judgeRound, type Round, type Seen } from './judge';
import { isFlaky, paceVerdict, passed, percentile, timingOf } from './outcome';
import { junitXml } from './report';
import { namesFrom, testWords } from './wording';

const INES = '+447700900123';
const NAMES = namesFrom({ [INES]: 'Ines', chn_1: 'Harbour desk', app_1: 'Lockbook', rte_1: 'Locks' });
const nothing: Seen = {
  began: 1000,
  now: 1500,
  sent: [],
  arrivals: [],
  visible: [INES],
  told: [],
  records: [],
  presentBefore: [],
};
const judge = (expectation: Expectation, seen: Partial<Seen>) =>
  judgeRound([expectation], { ...nothing, ...seen }, NAMES)[0];
const arrives: Expectation = { expect: 'arrives', phone: INES, within: 10, way: 'contains', text: 'booked' };

describe('presence counts only in time, and only where there was absence', () => {
  test('open while it may still come, then failed', () => {
    expect(judge(arrives, {})?.holds).toBeUndefined();
    expect(judge(arrives, { now: 11_001 })?.holds).toBe(false);
  });

  test('in time, too late, and another text', () => {
    const at = (ms: number, text = 'Passage booked') => ({
      arrivals: [{ phone: INES, text, at: 1000 + ms }],
      now: 30_000,
    });
    expect(judge(arrives, at(9000))).toMatchObject({ holds: true, tookMs: 9000 });
    expect(judge(arrives, at(12_000))).toMatchObject({ holds: false, said: 'It arrived too late', tookMs: 12_000 });
    expect(judge(arrives, at(100, 'Closed'))).toMatchObject({ holds: false, said: expect.stringContaining('Closed') });
  });

  test('what was there before proves nothing', () => {
    const before = {
      presentBefore: [{ phone: INES, text: 'Passage booked' }],
      arrivals: [{ phone: INES, text: 'Passage booked', at: 2000 }],
    };
    expect(judge(arrives, before)).toMatchObject({
      holds: false,
      said: expect.stringContaining('proves nothing'),
    });
  });

  test('on a phone nobody sees, the receipt speaks', () => {
    const sent = [{ id: 'm', to: INES, text: 'Passage booked', state: 'delivered', deliveredAt: 3000 }];
    expect(judge(arrives, { sent, visible: [] })).toMatchObject({
      holds: true,
      said: expect.stringContaining('receipt'),
    });
    // On one that is seen, a receipt is not enough.
    expect(judge(arrives, { sent })?.holds).toBeUndefined();
  });

  test('a record must be one more than before; an app that never said how many cannot prove it', () => {
    const record: Expectation = { expect: 'record', app: 'app_1', record: 'ticket', phone: INES, within: 5 };
    const look = (before: number | undefined, now: number | undefined) =>
      judge(record, { records: [{ app: 'app_1', record: 'ticket', phone: INES, before, now }], now: 9000 });
    expect(look(1, 2)?.holds).toBe(true);
    expect(look(1, 1)).toMatchObject({ holds: false, said: 'There were 1 before and none was added' });
    expect(look(undefined, 2)?.holds).toBe(false);
    expect(look(0, undefined)).toMatchObject({ holds: false, said: 'The app does not answer' });
  });
});

describe('the other expectations', () => {
  test('the route that took it, or none', () => {
    const routed = (route: string, ids: string[]) =>
      judge(
        { expect: 'routed', route },
        { message: { id: 'm', at: 1200 }, routing: { outcome: 'routed', routes: ids.map((id) => ({ id, name: id })) } },
      );
    expect(routed('rte_1', ['rte_1'])?.holds).toBe(true);
    expect(routed('rte_1', ['rte_2'])).toMatchObject({ holds: false, said: 'Handled by “rte_2”, and not by “Locks”' });
    expect(routed('', [])?.holds).toBe(true);
    expect(routed('', ['rte_1'])?.holds).toBe(false);
  });

  test('a field of what the app was told', () => {
    const told = (field: string, value: string) =>
      judge(
        { expect: 'told', app: 'app_1', within: 5, field, value },
        { told: [{ app: 'app_1', at: 2000, body: { data: { text: 'LOCK', parts: 2 } } }] },
      );
    expect(told('data.text', 'LOCK')?.holds).toBe(true);
    expect(told('data.parts', '2')?.holds).toBe(true);
    expect(told('data.text', 'lock')?.holds).toBe(false);
    expect(told('data.nobody', '')).toMatchObject({ holds: false, said: 'The event has no field “data.nobody”' });
  });

  test('a round trip begins with something that came in', () => {
    const sent = [{ id: 'm', to: INES, text: 'x', state: 'delivered', deliveredAt: 2000 }];
    const trip: Expectation = { expect: 'round-trip', within: 5 };
    expect(judge(trip, { sent, message: { id: 'i', at: 1100 } })?.holds).toBe(true);
    expect(judge(trip, { sent, now: 7000 })?.holds).toBe(false);
    // An order that arrives is delivered, and no round trip.
    expect(judge({ expect: 'delivered', within: 5 }, { sent })?.holds).toBe(true);
  });

  test('once is settled at its end, twice at once', () => {
    const once: Expectation = { expect: 'once', during: 5 };
    const arrival = { phone: INES, text: 'x', at: 1100 };
    expect(judge(once, { arrivals: [arrival] })?.holds).toBeUndefined();
    expect(judge(once, { arrivals: [arrival], now: 7000 })?.holds).toBe(true);
    expect(judge(once, { arrivals: [arrival, arrival] })?.holds).toBe(false);
    expect(judge(once, { now: 7000 })?.holds).toBe(false);
  });

  test('wrong on purpose: for the right cause only, and never by arriving', () => {
    const refused: Expectation = { expect: 'refused', cause: 'opted-out' };
    expect(judge(refused, { refused: { cause: 'opted-out', said: 'STOP' } })?.holds).toBe(true);
    expect(judge(refused, { refused: { cause: 'credit-gone', said: 'no' } })?.holds).toBe(false);
    expect(judge({ expect: 'refused', cause: '' }, { refused: { said: 'no' } })?.holds).toBe(true);
    expect(
      judge(refused, { sent: [{ id: 'm', to: INES, text: 'x', state: 'delivered', deliveredAt: 1 }] })?.holds,
    ).toBe(false);
  });

  test('a refusal fails whatever waits for more, and keeps silence', () => {
    const refused = { refused: { cause: 'credit-gone' as const, said: 'no credit' }, now: 60_000 };
    expect(judge({ expect: 'delivered', within: 5 }, refused)).toMatchObject({ holds: false, cause: 'credit-gone' });
    expect(judge({ expect: 'silence', phone: INES, during: 5 }, refused)?.holds).toBe(true);
  });

  test('every expectation is settled when all its time is over', () => {
    const any = fc.constantFrom<Expectation>(
      arrives,
      { expect: 'routed', route: 'rte_1' },
      { expect: 'told', app: 'app_1', within: 60, field: '', value: '' },
      { expect: 'record', app: 'app_1', record: 'r', phone: INES, within: 60 },
      { expect: 'delivered', within: 60 },
      { expect: 'round-trip', within: 60 },
      { expect: 'once', during: 60 },
      { expect: 'silence', phone: INES, during: 60 },
      { expect: 'refused', cause: '' },
    );
    fc.assert(
      fc.property(any, fc.boolean(), fc.boolean(), (expectation, arrived, left) => {
        const seen = {
          now: 1000 + 61_000,
          arrivals: arrived ? [{ phone: INES, text: 'x', at: 1500 }] : [],
          sent: left ? [{ id: 'm', to: INES, text: 'x', state: 'sent' }] : [],
        };
        expect(judge(expectation, seen)?.holds).toBeTypeOf('boolean');
      }),
    );
  });
});

const round = (tookMs: number, holds = true): Round => ({
  began: 0,
  verdicts: [{ holds, expected: 'x', said: 'y', tookMs }],
  messages: [],
});
const test1: DeliveryTest = {
  stimulus: { kind: 'text', phone: INES, channel: 'chn_1', text: 'LOCK {{ run }}' },
  expectations: [arrives],
  times: 1,
};

describe('over rounds and runs', () => {
  test('nearest-rank percentiles', () => {
    // The worked example of the definition: five values, and the 5th, 30th, 40th, 50th and 100th percentile.
    const five = [15, 20, 35, 40, 50];
    expect([5, 30, 40, 50, 100].map((share) => percentile(five, share))).toEqual([15, 20, 20, 35, 50]);
    expect(timingOf([round(30), round(10), round(20)])).toEqual({ count: 3, min: 10, p50: 20, p95: 30, max: 30 });
    expect(timingOf([])).toBeUndefined();
  });

  test('a demand on pace fails by time, and by a round that failed', () => {
    const demanding = { ...test1, pace: { percentile: 95, withinMs: 25 } };
    expect(paceVerdict(demanding, [round(10), round(20)])?.holds).toBe(true);
    expect(paceVerdict(demanding, [round(10), round(30)])?.holds).toBe(false);
    expect(passed(demanding, [round(10), round(10, false)])).toBe(false);
    expect(passed(test1, [])).toBe(false);
    expect(passed(test1, [round(10_000)])).toBe(true);
  });

  test('flaky is in turn, not once broken and fixed', () => {
    expect(isFlaky(['passed', 'failed', 'failed', 'passed', 'passed'])).toBe(false);
    expect(isFlaky(['passed', 'failed', 'passed', 'failed'])).toBe(true);
    expect(isFlaky(['failed', 'failed', 'failed'])).toBe(false);
  });
});

test('words of rounds differ, and a text takes its own', () => {
  const words = new Set(
    Array.from({ length: 20 }, (_, index) => wordOf('dtr_01JD0V7M3T8Q4W5X6Y7Z8A9B0C', index, 1_790_000_000_000)),
  );
  expect(words.size).toBe(20);
  expect(withRun('LOCK {{run}} and {{ run }}', 'AB')).toBe('LOCK AB and AB');
});

test('coverage, phones and the sentence', () => {
  const full: DeliveryTest = {
    ...test1,
    times: 3,
    expectations: [
      { expect: 'routed', route: 'rte_1' },
      { expect: 'told', app: 'app_1', within: 5, field: '', value: '' },
      arrives,
    ],
  };
  expect([...coverageOf(full)].sort()).toEqual(['app_1', 'chn_1', 'rte_1']);
  expect([...phonesOf(full)]).toEqual([INES]);
  expect(testWords(full, NAMES)).toBe(
    'When Ines’s handset writes “LOCK {{ run }}” to Harbour desk, then the route “Locks” handles it, and Lockbook accepts the event within 5 s, and a text containing “booked” arrives at Ines’s handset within 10 s. Done 3 times.',
  );
  expect(deliveryTest.safeParse({ ...full, times: 40 }).success).toBe(false);
  expect(deliveryTest.safeParse({ ...full, stimulus: { ...full.stimulus, phone: '07700 900123' } }).success).toBe(
    false,
  );
});

test('JUnit: counts, failures with the fix, and nothing that breaks the XML', () => {
  const run = (state: 'passed' | 'failed' | 'stopped', name: string) => ({
    id: 'dtr_1',
    name,
    words: 'When <a> & "b" \u0000\uFFFF',
    state,
    startedAt: 1000,
    endedAt: 3500,
    rounds:
      state === 'failed'
        ? [
            {
              began: 0,
              verdicts: [{ holds: false, expected: 'a', said: 'b', cause: 'credit-gone' as const }],
              messages: [],
            },
          ]
        : [],
    ...(state === 'stopped' ? { problem: 'The cap' } : {}),
  });
  const xml = junitXml([run('passed', 'One & only'), run('failed', 'Two'), run('stopped', 'Three')]);
  expect(xml).toContain('tests="3" failures="1" errors="0" skipped="1" time="7.500"');
  expect(xml).toContain('type="credit-gone"');
  expect(xml).toContain('Fix: Top up at the provider');
  expect(xml).toContain('<skipped message="The cap"/>');
  expect(xml).toContain('name="One &amp; only"');
  for (const bad of ['\u0000', '\uFFFF']) expect(xml.includes(bad)).toBe(false);
});
