import { describe, expect, test } from 'vitest';
import { isAbove, judgeFirst, type Outcomes, reasonToHold, STATES, stateAfter, USUAL_RULES, type Verb } from './course';

const well: Outcomes = {
  waiting: 0,
  sent: 0,
  delivered: 50,
  failed: 0,
  uncertain: 0,
  optedOut: 0,
  silent: 0,
  receipts: true,
  countries: [],
};
const hold = (changed: Partial<Outcomes>, around = {}) =>
  reasonToHold(USUAL_RULES, { ...well, ...changed }, around)?.code;

test('what is over stays over, and only what runs or waits can be held', () => {
  const verbs: Verb[] = [
    'start',
    'planned',
    'needs-approval',
    'approve',
    'send-back',
    'begin',
    'hold',
    'resume',
    'finish',
    'cancel',
  ];
  for (const verb of verbs)
    for (const over of ['finished', 'cancelled'] as const) expect(stateAfter(over, verb)).toBeUndefined();
  expect(STATES.filter((state) => stateAfter(state, 'hold'))).toEqual(['scheduled', 'running']);
  expect(stateAfter('held', 'resume')).toBe('running');
  expect(stateAfter('running', 'begin')).toBeUndefined();
});

describe('it holds itself', () => {
  test.each<[string, Partial<Outcomes>]>([
    ['failures', { delivered: 40, failed: 10 }],
    ['opt-outs', { optedOut: 3 }],
    ['silence', { delivered: 5, sent: 40, silent: 30 }],
    [
      'country',
      {
        delivered: 45,
        failed: 6,
        countries: [
          { country: 'GB', known: 45, failed: 0 },
          { country: 'SE', known: 6, failed: 6 },
        ],
      },
    ],
  ])('%s', (code, outcomes) => {
    expect(hold(outcomes)).toBe(code);
  });

  test('because of what is around it, whatever its own outcomes are', () => {
    expect(hold({}, { broken: 'Broken.' })).toBe('path-broken');
    expect(hold({}, { template: 'Paused.' })).toBe('template');
    expect(hold({}, { balance: 'Gone.' })).toBe('balance');
  });
});

test('it does not judge on too few, nor call the path broken for one country among others that fail', () => {
  expect(hold({ delivered: 5, failed: 5 })).toBeUndefined();
  expect(hold({ delivered: 48, failed: 2, optedOut: 1 })).toBeUndefined();
  expect(
    hold({
      delivered: 20,
      failed: 20,
      countries: [
        { country: 'GB', known: 20, failed: 10 },
        { country: 'SE', known: 20, failed: 12 },
      ],
    }),
  ).toBe('failures');
});

test('a country is blamed alone only where enough is known of the others, and they do well', () => {
  const GB = { country: 'GB', known: 9, failed: 8 };
  const few = { delivered: 3, failed: 12 };
  expect(hold({ ...few, countries: [GB, { country: 'SE', known: 6, failed: 4 }] })).toBeUndefined();
  expect(hold({ ...few, countries: [GB, { country: 'SE', known: 2, failed: 0 }] })).toBeUndefined();
  expect(hold({ delivered: 20, failed: 8, countries: [GB, { country: 'SE', known: 19, failed: 0 }] })).toBe('country');
});

test('a share is above a limit only as far as so few can say', () => {
  expect([isAbove(1, 28, 0.03), isAbove(2, 50, 0.03), isAbove(3, 50, 0.03), isAbove(40, 1000, 0.03)]).toEqual([
    false,
    false,
    true,
    true,
  ]);
  expect([isAbove(0, 0, 0), isAbove(1, 20, 0), isAbove(20, 20, 1), isAbove(31, 1000, 0.03)]).toEqual([
    false,
    true,
    false,
    false,
  ]);
});

describe('the first ones', () => {
  const first = (changed: Partial<Outcomes>, minutes: number, rules = USUAL_RULES) =>
    judgeFirst(rules, { ...well, ...changed }, {}, { lastLeftAt: 0, now: minutes * 60_000 });

  test('let the others follow when enough of their outcomes are known and well', () => {
    expect(first({}, 0)).toEqual({ say: 'go on' });
    expect(first({ delivered: 20, sent: 30 }, 1)).toEqual({ say: 'wait' });
    expect(first({ delivered: 46, sent: 4 }, 1)).toEqual({ say: 'go on' });
    expect(first({ delivered: 45, waiting: 5 }, 99)).toEqual({ say: 'wait' });
  });

  test('hold it when they went badly, however few they are', () => {
    expect(first({ delivered: 3, failed: 2 }, 1, { ...USUAL_RULES, first: 5 })).toMatchObject({
      say: 'hold',
      why: { code: 'failures' },
    });
    expect(first({ delivered: 40, failed: 10 }, 1)).toMatchObject({ say: 'hold', why: { code: 'failures' } });
  });

  test('when the wait is over most must be known; silence is no good news', () => {
    expect(first({ delivered: 30, sent: 20 }, 16)).toEqual({ say: 'go on' });
    expect(first({ delivered: 10, sent: 40 }, 16)).toMatchObject({ say: 'hold', why: { code: 'silence' } });
  });

  test('on a path without receipts what was accepted is all there is to know', () => {
    expect(first({ delivered: 0, sent: 50, receipts: false }, 0)).toEqual({ say: 'go on' });
    expect(first({ delivered: 0, sent: 40, failed: 10, receipts: false }, 0)).toMatchObject({ say: 'hold' });
  });
});
