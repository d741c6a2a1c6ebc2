/**
 * When a message of a broadcast is due for one person: at once, at one instant for all, or at a time of day where they are;
 * and, where quiet hours are kept, not at night. Times that a change of the clock leaves out or repeats follow RFC 5545
 * §3.3.5: the first of two, and the offset before the change for one that is not there.
 */
import { Temporal } from 'temporal-polyfill';
import { zoneOfCountry } from '../addresses/zones';
import { memo } from '../memo';
import { isZone } from '../schedule/clock';
import type { QuietHours, QuietTable } from './quietHours';

/** What is done for those whose time is over when the broadcast starts. */
export const PASSED = ['next-day', 'at-once', 'leave-out'] as const;
export type Passed = (typeof PASSED)[number];

export type When =
  | { at: 'once' }
  /** Epoch milliseconds. */
  | { at: 'instant'; instant: number }
  /** `day` as 2026-12-01, `time` as 09:00, by each person’s own clock. */
  | { at: 'local'; day: string; time: string; passed: Passed };

export type ZoneFrom = 'contact' | 'number' | 'installation';

export interface Zoned {
  /** IANA. */
  zone: string;
  from: ZoneFrom;
}

/** Where somebody is: as is known of them, as their number tells where its country has one zone, else where we are. */
export function zoneOfPerson(own: string | null | undefined, country: string | undefined, ours: string): Zoned {
  if (own && isKnownZone(own)) return { zone: own, from: 'contact' };
  const ofNumber = zoneOfCountry(country);
  return ofNumber ? { zone: ofNumber, from: 'number' } : { zone: ours, from: 'installation' };
}

const known = memo<boolean>();

/** A file or an import may call anything a zone. */
const isKnownZone = (zone: string): boolean => known(zone, () => isZone(zone));

export interface Due {
  /** Epoch milliseconds. */
  at: number;
  /** Their time was over, and it comes a day later or at once. */
  passed?: 'next-day' | 'at-once';
  /** A change of the clock: their clock never shows the time, or shows it twice. */
  clock?: 'skipped' | 'repeated';
  /** It was moved out of quiet hours. */
  quiet?: true;
}

/** When it is due; undefined for somebody whose time is over and who is to be left out then. */
export function dueAt(
  when: When,
  { zone }: Pick<Zoned, 'zone'>,
  now: number,
  quiet: QuietHours | undefined,
): Due | undefined {
  const due =
    when.at === 'local' ? localDue(when, zone, now) : { at: when.at === 'instant' ? Math.max(now, when.instant) : now };
  return due && outOfQuiet(due, zone, quiet);
}

function localDue({ day, time, passed }: When & { at: 'local' }, zone: string, now: number): Due | undefined {
  const due = onClock(Temporal.PlainDate.from(day), time, zone);
  if (due.at >= now) return due;
  if (passed === 'leave-out') return undefined;
  if (passed === 'at-once') return { at: now, passed };
  // The first day on which it is not over.
  const today = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(zone).toPlainDate();
  const first = onClock(today, time, zone);
  return { ...(first.at >= now ? first : onClock(today.add({ days: 1 }), time, zone)), passed };
}

function onClock(day: Temporal.PlainDate, time: string, zone: string): Due {
  const wall = day.toPlainDateTime(Temporal.PlainTime.from(time));
  const first = wall.toZonedDateTime(zone, { disambiguation: 'compatible' });
  const clock = first.toPlainDateTime().equals(wall)
    ? wall.toZonedDateTime(zone, { disambiguation: 'later' }).epochMilliseconds === first.epochMilliseconds
      ? undefined
      : ('repeated' as const)
    : ('skipped' as const);
  return { at: first.epochMilliseconds, ...(clock ? { clock } : {}) };
}

/** At their end, where it would come within them. */
function outOfQuiet(due: Due, zone: string, quiet: QuietHours | undefined): Due {
  if (!quiet || quiet.from === quiet.to) return due;
  const there = Temporal.Instant.fromEpochMilliseconds(due.at).toZonedDateTimeISO(zone);
  const time = there.toPlainTime();
  const [from, to] = [Temporal.PlainTime.from(quiet.from), Temporal.PlainTime.from(quiet.to)];
  const compare = Temporal.PlainTime.compare;
  const overMidnight = compare(from, to) > 0;
  const inside = overMidnight
    ? compare(time, from) >= 0 || compare(time, to) < 0
    : compare(time, from) >= 0 && compare(time, to) < 0;
  if (!inside) return due;
  const day = there.toPlainDate().add({ days: overMidnight && compare(time, from) >= 0 ? 1 : 0 });
  return { ...due, at: Math.max(due.at, onClock(day, quiet.to, zone).at), quiet: true };
}

export function quietIn(table: QuietTable, country: string | undefined): QuietHours | undefined {
  return (country !== undefined && Object.hasOwn(table, country) ? table[country] : undefined) ?? table['*'];
}

/** Due times of one broadcast; people of one zone and country share theirs, as working one out costs a millisecond. */
export function createTimetable(
  when: When,
  now: number,
  quiet?: QuietTable,
): (zone: string, country?: string) => Due | undefined {
  const known = new Map<string, Due | undefined>();
  return (zone, country) => {
    const key = `${zone} ${quiet ? country : ''}`;
    if (!known.has(key)) known.set(key, dueAt(when, { zone }, now, quiet && quietIn(quiet, country)));
    return known.get(key);
  };
}
