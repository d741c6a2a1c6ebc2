import fc from 'fast-check';
import moment from 'moment-timezone';
import { describe, expect, test } from 'vitest';
import { USUAL_QUIET } from './quietHours';
import { dueAt, quietIn, type When, zoneOfPerson } from './timetable';

const at = (text: string) => Date.parse(text);
const local = (day: string, time: string, passed: (When & { at: 'local' })['passed'] = 'next-day'): When => ({
  at: 'local',
  day,
  time,
  passed,
});

test('nine in the morning is another instant in each zone', () => {
  const now = at('2026-11-30T00:00:00Z');
  const due = (zone: string) => new Date(dueAt(local('2026-12-01', '09:00'), { zone }, now, undefined)?.at ?? 0);
  expect(due('Europe/London').toISOString()).toBe('2026-12-01T09:00:00.000Z');
  expect(due('Europe/Stockholm').toISOString()).toBe('2026-12-01T08:00:00.000Z');
  expect(due('Asia/Kolkata').toISOString()).toBe('2026-12-01T03:30:00.000Z');
});

test('a time the clock skips comes with the offset before it, one that comes twice is the first; both are said', () => {
  const now = at('2026-01-01T00:00:00Z');
  expect(dueAt(local('2026-03-29', '01:30'), { zone: 'Europe/London' }, now, undefined)).toEqual({
    at: at('2026-03-29T01:30:00Z'),
    clock: 'skipped',
  });
  expect(dueAt(local('2026-10-25', '01:30'), { zone: 'Europe/London' }, now, undefined)).toEqual({
    at: at('2026-10-25T00:30:00Z'),
    clock: 'repeated',
  });
});

describe('a time that is over where they are', () => {
  const now = at('2026-12-01T08:30:00Z');
  const zone = 'Europe/Stockholm'; // half past nine there
  test.each([
    ['next-day', { at: at('2026-12-02T08:00:00Z'), passed: 'next-day' }],
    ['at-once', { at: now, passed: 'at-once' }],
    ['leave-out', undefined],
  ] as const)('%s', (passed, expected) => {
    expect(dueAt(local('2026-12-01', '09:00', passed), { zone }, now, undefined)).toEqual(expected);
  });

  test('a day long ago is not made up for day by day', () => {
    expect(dueAt(local('2026-11-01', '09:00'), { zone }, now, undefined)?.at).toBe(at('2026-12-02T08:00:00Z'));
    expect(dueAt(local('2026-11-01', '10:00'), { zone }, now, undefined)?.at).toBe(at('2026-12-01T09:00:00Z'));
  });
});

test('what would come at night comes in the morning; the country’s own hours go before all others', () => {
  const table = { ...USUAL_QUIET, SE: { from: '20:00', to: '09:00' }, NO: { from: '00:00', to: '00:00' } };
  const due = (time: string, country: string, zone: string) =>
    dueAt({ at: 'instant', instant: at(`2026-12-01T${time}Z`) }, { zone }, 0, quietIn(table, country));
  expect(due('22:00', 'GB', 'Europe/London')).toEqual({ at: at('2026-12-02T08:00:00Z'), quiet: true });
  expect(due('07:59', 'GB', 'Europe/London')).toEqual({ at: at('2026-12-01T08:00:00Z'), quiet: true });
  expect(due('08:00', 'GB', 'Europe/London')).toEqual({ at: at('2026-12-01T08:00:00Z') });
  expect(due('19:30', 'SE', 'Europe/Stockholm')).toEqual({ at: at('2026-12-02T08:00:00Z'), quiet: true });
  expect(due('23:00', 'NO', 'Europe/Oslo')).toEqual({ at: at('2026-12-01T23:00:00Z') });
});

test('the zone is theirs, their number’s where it can be only one, else ours', () => {
  expect(zoneOfPerson('Asia/Tokyo', 'GB', 'Europe/London')).toEqual({ zone: 'Asia/Tokyo', from: 'contact' });
  expect(zoneOfPerson(null, 'SE', 'Europe/London')).toEqual({ zone: 'Europe/Stockholm', from: 'number' });
  expect(zoneOfPerson('Moon/Base', 'SE', 'Europe/London')).toEqual({ zone: 'Europe/Stockholm', from: 'number' });
  expect(zoneOfPerson(undefined, 'US', 'Europe/London')).toEqual({ zone: 'Europe/London', from: 'installation' });
});

const ZONES = [
  'Europe/London',
  'America/New_York',
  'Asia/Kolkata',
  'Australia/Lord_Howe',
  'Africa/Casablanca',
  'Pacific/Apia',
  'America/Sao_Paulo',
  'UTC',
];
const two = (n: number) => String(n).padStart(2, '0');

test('the instants are those of a second library with tables of its own', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...ZONES),
      fc.integer({ min: 0, max: 3 * 365 }),
      fc.integer({ min: 0, max: 1439 }),
      (zone, days, minute) => {
        const day = moment.utc('2024-01-01').add(days, 'days').format('YYYY-MM-DD');
        const time = `${two(Math.floor(minute / 60))}:${two(minute % 60)}`;
        const due = dueAt(local(day, time), { zone }, 0, undefined);
        const theirs = moment.tz(`${day} ${time}`, zone);
        // It moves a time that is not there on by an hour, whatever the clock skips.
        if (due?.clock === 'skipped') expect(theirs.format('HH:mm')).not.toBe(time);
        else expect(due?.at).toBe(theirs.valueOf());
      },
    ),
    { numRuns: 2000 },
  );
});

test('nothing is ever due in quiet hours, nor before its time, nor more than a day after it', () => {
  const clock = fc
    .integer({ min: 0, max: 1439 })
    .map((minute) => `${two(Math.floor(minute / 60))}:${two(minute % 60)}`);
  fc.assert(
    fc.property(
      fc.constantFrom(...ZONES),
      fc.integer({ min: at('2025-01-01T00:00:00Z'), max: at('2027-01-01T00:00:00Z') }),
      clock,
      clock,
      (zone, instant, from, to) => {
        const due = dueAt({ at: 'instant', instant }, { zone }, 0, { from, to });
        const there = moment.tz(due?.at ?? 0, zone).format('HH:mm');
        const inside = from < to ? there >= from && there < to : from > to && (there >= from || there < to);
        const skipped = due?.quiet && there !== to;
        expect(inside && !skipped).toBe(false);
        expect(due?.at).toBeGreaterThanOrEqual(instant);
        expect((due?.at ?? 0) - instant).toBeLessThanOrEqual(26 * 3_600_000);
      },
    ),
    { numRuns: 2000 },
  );
});
