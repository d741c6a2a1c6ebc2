import { describe, expect, test } from 'vitest';
import { answerable, type CallFacts, examineAnswer, readCall } from './calls';

const FACTS: CallFacts = { country: 'GB', own: ['+442079460114'], once: 6 * 3_600_000, now: 1_000_000_000_000 };

test.each([
  ['+447700900123', '+447700900123'],
  ['07700 900123', '+447700900123'],
  ['0046701740612', '+46701740612'],
])('%s is answered', (caller, to) => expect(answerable(caller, FACTS)).toEqual({ yes: true, to }));

test.each([
  ['', 'hidden'],
  ['Anonymous', 'hidden'],
  ['withheld', 'hidden'],
  ['266696687', 'hidden'],
  ['84433', 'short code'],
  ['999', 'short code'],
  ['+442079460114', 'our own numbers'],
  ['020 7946 0188', 'fixed line'],
  ['sip:kiosk', 'cannot be answered'],
])('%j is not: %s', (caller, why) =>
  expect(answerable(caller, FACTS)).toEqual({ yes: false, why: expect.stringContaining(why) }),
);

test('at most once in the time set', () => {
  const hours = (n: number) => answerable('+447700900123', { ...FACTS, answeredAt: FACTS.now - n * 3_600_000 }).yes;
  expect([hours(0), hours(5.99), hours(6)]).toEqual([false, false, true]);
});

describe('what is posted', () => {
  test('event, caller, called, and the call’s id', () => {
    expect(readCall({ event: 'Missed', caller: ' 07700 900123', called: '+442079460114', call: 7 })).toEqual({
      ok: true,
      call: { event: 'missed', caller: '07700 900123', called: '+442079460114', callId: '7' },
    });
    expect(readCall({ event: 'voicemail-box', caller: null, called: '1' })).toMatchObject({
      ok: true,
      call: { caller: '' },
    });
  });
  test.each([
    [{ Event: 'missed', caller: '1', called: '2' }, 'field-letter-case'],
    [{ event: 'missed', from: '1', called: '2' }, 'field-missing'],
    [{ event: 'ringing', caller: '1', called: '2' }, 'call-event-unknown'],
    [{ event: { a: 1 }, caller: '1', called: '2' }, 'call-event-unknown'],
    [{}, 'field-missing'],
  ])('%j: %s', (record, code) => expect(readCall(record as never)).toMatchObject({ ok: false, finding: { code } }));
});

describe('an answer is one part', () => {
  test('160 units are, and a curly apostrophe leaves 70', () => {
    expect(examineAnswer('x'.repeat(160))).toBe(undefined);
    expect(examineAnswer(`We’ll ${'x'.repeat(64)}`)).toBe(undefined);
    expect(examineAnswer('x'.repeat(161))).toMatchObject({ code: 'answer-too-long', remedy: 'Shorten it by 1.' });
    expect(examineAnswer(`We’ll ${'x'.repeat(100)}`)).toMatchObject({
      remedy: expect.stringContaining("write ' instead"),
      place: { from: 2, to: 3 },
    });
  });
});
