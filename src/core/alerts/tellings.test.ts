import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type AlertFact, type AlertRule, type TellingBefore, tellingsDue, wayKey } from './tellings';

const MINUTE = 60_000;
const NOON = Date.UTC(2026, 10, 24, 12);
const alert = (change: Partial<AlertFact> = {}): AlertFact => ({
  id: 1,
  key: 'credit-gone acc_1',
  code: 'credit-gone',
  severity: 'error',
  subjectId: 'acc_1',
  began: NOON,
  ...change,
});
const rule = (change: Partial<AlertRule> = {}): AlertRule => ({
  id: 'alr_1',
  name: 'Broken',
  from: 'error',
  ways: [{ by: 'mail', to: 'administrators' }],
  afterMinutes: 2,
  ...change,
});

/** Lets minutes pass and keeps what was told, as the engine does. */
function course(
  minutes: number,
  at: (minute: number) => {
    alerts: AlertFact[];
    rules?: AlertRule[];
    windows?: { from: number; until: number; subjectId?: string }[];
  },
  from = NOON,
) {
  const told: TellingBefore[] = [];
  const said: string[] = [];
  for (let minute = 0; minute <= minutes; minute++) {
    const now = from + minute * MINUTE;
    const { alerts, rules = [rule()], windows = [] } = at(minute);
    for (const each of tellingsDue({ now, alerts, rules, windows, told })) {
      said.push(`${minute} ${each.what} ${wayKey(each.way)} ${each.alerts.map(({ id }) => id).join('+')}`);
      for (const { id } of each.alerts)
        told.push({ alert: id, rule: each.rule.id, what: each.what, way: wayKey(each.way), at: now });
    }
  }
  return said;
}

test('it is told once when it has lasted, and its end once, to the same', () => {
  const said = course(20, (minute) => ({ alerts: [alert(minute >= 9 ? { ended: NOON + 9 * MINUTE } : {})] }));
  expect(said).toEqual(['2 began mail administrators 1', '9 ended mail administrators 1']);
});

test('what is over before it was told is told to nobody', () => {
  expect(course(9, (minute) => ({ alerts: [alert(minute >= 1 ? { ended: NOON + MINUTE } : {})] }))).toEqual([]);
});

test('where nobody takes it others are told; where somebody does nobody else is', () => {
  const rules = [rule({ escalate: { afterMinutes: 15, ways: [{ by: 'text', phone: '+447700900101' }] } })];
  expect(course(30, () => ({ alerts: [alert()], rules }))).toEqual([
    '2 began mail administrators 1',
    '17 escalated text +447700900101 1',
  ]);
  const taken = course(30, (minute) => ({ alerts: [alert(minute >= 10 ? { taken: NOON + 10 * MINUTE } : {})], rules }));
  expect(taken).toEqual(['2 began mail administrators 1']);
  const ends = course(40, (minute) => ({ alerts: [alert(minute >= 30 ? { ended: NOON + 30 * MINUTE } : {})], rules }));
  expect(ends.slice(2)).toEqual(['30 ended mail administrators 1', '30 ended text +447700900101 1']);
});

test('many at one moment are told together, and one way of two rules once', () => {
  const alerts = [1, 2, 3].map((id) => alert({ id, key: `k${id}` }));
  const rules = [rule(), rule({ id: 'alr_2', from: 'attention' })];
  expect(course(5, () => ({ alerts, rules }))).toEqual(['2 began mail administrators 1+2+3']);
});

test('one that comes and goes is told anew only where it stays', () => {
  const at = (minute: number) => ({
    alerts: [
      alert({ ended: NOON + 5 * MINUTE }),
      ...(minute >= 8
        ? [alert({ id: 2, began: NOON + 8 * MINUTE, ...(minute >= 12 ? { ended: NOON + 12 * MINUTE } : {}) })]
        : []),
      ...(minute >= 20 ? [alert({ id: 3, began: NOON + 20 * MINUTE })] : []),
    ],
  });
  expect(course(40, at)).toEqual(['30 began mail administrators 3']);
});

test('while work is done on it nobody is told, and of others they are', () => {
  const windows = [{ from: NOON, until: NOON + 10 * MINUTE, subjectId: 'acc_1' }];
  const alerts = [alert(), alert({ id: 2, key: 'other', subjectId: 'acc_2' })];
  expect(course(15, () => ({ alerts, windows }))).toEqual([
    '2 began mail administrators 2',
    '10 began mail administrators 1',
  ]);
});

test('in quiet hours what is at risk waits for the morning, also over midnight and in another zone', () => {
  const quiet = { from: 22 * 60, until: 7 * 60, zone: 'Europe/Stockholm', butErrors: true };
  const rules = [rule({ from: 'attention', quiet })];
  const evening = Date.UTC(2026, 10, 24, 21, 30);
  const alerts = [alert({ began: evening }), alert({ id: 2, key: 'x', severity: 'attention', began: evening })];
  expect(course(9 * 60, () => ({ alerts, rules }), evening)).toEqual([
    '2 began mail administrators 1',
    `${8 * 60 + 30} began mail administrators 2`,
  ]);
});

test('whatever comes and goes: nobody hears of an end without a beginning, nor of anything twice', () => {
  const times = fc.array(fc.tuple(fc.nat(40), fc.nat(40), fc.nat(3), fc.boolean()), { maxLength: 8 });
  fc.assert(
    fc.property(times, fc.nat(5), (list, afterMinutes) => {
      const escalate = { afterMinutes: 3, ways: [{ by: 'app' as const, app: 'app_1' }] };
      const rules = [
        rule({ afterMinutes, escalate }),
        rule({ id: 'b', ways: [{ by: 'text', phone: '+447700900101' }] }),
      ];
      const said = course(90, (minute) => ({
        rules,
        alerts: list
          .map(([began, lasts, key, takes], id) => ({ began, ends: began + lasts, key, takes, id }))
          .filter(({ began }) => began <= minute)
          .map(({ began, ends, key, takes, id }) =>
            alert({
              id,
              key: `k${key}`,
              began: NOON + began * MINUTE,
              ...(takes ? { taken: NOON + began * MINUTE } : {}),
              ...(minute >= ends ? { ended: NOON + ends * MINUTE } : {}),
            }),
          ),
      })).flatMap((line) => {
        const [, what = '', way = '', to = '', ids = ''] = line.split(' ');
        return ids.split('+').map((id) => `${what} ${way} ${to} ${id}`);
      });
      expect(new Set(said).size).toBe(said.length);
      for (const [place, line] of said.entries())
        if (line.startsWith('ended ')) {
          const before = said.slice(0, place);
          expect(before.some((each) => /^(began|escalated) /.test(each) && each.endsWith(line.slice(6)))).toBe(true);
        }
    }),
  );
});

test('a rule of a team tells of what belongs to it, and its end also where it left the team meanwhile', () => {
  const rules = [rule({ team: 'Locks' })];
  expect(course(9, () => ({ alerts: [alert({ team: 'Harbour' }), alert({ id: 2, key: 'b' })], rules }))).toEqual([]);
  const said = course(20, (minute) => ({
    alerts: [alert(minute < 9 ? { team: 'Locks' } : { team: 'Harbour', ended: NOON + 9 * MINUTE })],
    rules,
  }));
  expect(said).toEqual(['2 began mail administrators 1', '9 ended mail administrators 1']);
});
