import { describe, expect, it } from 'vitest';
import { examineApp } from '../connect/examineApp';
import { type Examined, keyOf, weigh } from './readiness';

const NOW = 1_000_000_000_000;
const HOUR = 3_600_000;
const finding = (id: string, more: Partial<Examined> = {}): Examined => ({
  code: 'callback-elsewhere',
  severity: 'error',
  problem: 'It calls another address.',
  remedy: 'Set it.',
  subject: { kind: 'channel', id, name: id, href: `/connect/channels/${id}` },
  affects: [id],
  ...more,
});
const nothing = { changes: [], mutes: [], traffic: {}, now: NOW };
const traffic = { quiet: 900, late: 5, early: 5, busy: 60, doubtful: 900 };
const order = (...all: Examined[]) => weigh(all, { ...nothing, traffic }).open.map(({ subject }) => subject.id);

it('a finding keeps its key while its words count down, and two of one code are two', () => {
  const day = 24 * HOUR;
  const keys = ['Booking server', 'Reports'].map((name) => ({ name, expiresAt: NOW + 6 * day, lastUsedAt: NOW }));
  const at = (now: number) =>
    examineApp(
      keys.map((key) => ({ ...key, lastUsedAt: now })),
      [],
      now,
    ).map((each) => ({ problem: each.problem, key: keyOf({ ...each, subject: finding('app').subject }) }));
  const [today, tomorrow] = [at(NOW), at(NOW + day)];
  expect(today.map(({ problem }) => problem)).not.toEqual(tomorrow.map(({ problem }) => problem));
  expect(today.map(({ key }) => key)).toEqual(tomorrow.map(({ key }) => key));
  expect(new Set(today.map(({ key }) => key)).size).toBe(2);
});

describe('weighing', () => {
  it('puts the worst first, then the busiest, then what is known longest', () => {
    expect(
      order(
        finding('quiet', { severity: 'notice' }),
        finding('late', { since: NOW - HOUR }),
        finding('early', { since: NOW - 9 * HOUR }),
        finding('busy'),
        finding('doubtful', { severity: 'attention' }),
      ),
    ).toEqual(['busy', 'early', 'late', 'doubtful', 'quiet']);
  });

  it('tells one finding once, as the worse of the two', () => {
    const { open } = weigh(
      [finding('a', { severity: 'attention', problem: 'Perhaps.' }), finding('a', { problem: 'Certainly.' })],
      nothing,
    );
    expect(open.map(({ problem }) => problem)).toEqual(['Certainly.']);
    expect(order(finding('a', { about: 'inbound' }), finding('a', { about: 'receipt' }))).toHaveLength(2);
  });

  it('keeps what is muted apart until it ends, and only that', () => {
    const mute = (until: number) => ({ key: keyOf(finding('a')), reason: 'Test number', by: 'Maren', until });
    const both = [finding('a'), finding('b')];
    const muted = weigh(both, { ...nothing, mutes: [mute(NOW + 1)] });
    expect([muted.open.map(({ subject }) => subject.id), muted.muted.map(({ mute: m }) => m?.reason)]).toEqual([
      ['b'],
      ['Test number'],
    ]);
    expect(weigh(both, { ...nothing, mutes: [mute(NOW)] }).open).toHaveLength(2);
  });

  it('says what was changed about it since shortly before it broke', () => {
    const change = (subject: string, at: number) => ({ subject, at, by: 'Maren', summary: `at ${at}` });
    const changes = [
      change('a', NOW - 40 * HOUR),
      change('a', NOW - 3 * HOUR),
      change('b', NOW - HOUR),
      change('a', NOW - HOUR),
    ];
    const [one] = weigh([finding('a', { since: NOW - 2 * HOUR })], { ...nothing, changes }).open;
    expect(one?.changes.map(({ at }) => at)).toEqual([NOW - HOUR, NOW - 3 * HOUR]);
    // Where it is not known since when, every change may matter.
    expect(weigh([finding('a')], { ...nothing, changes }).open[0]?.changes).toHaveLength(3);
  });
});
