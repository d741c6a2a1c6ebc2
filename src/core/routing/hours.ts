/** Office hours: a week, with dates that are otherwise, in a time zone. */
import { Temporal } from 'temporal-polyfill';

export interface Opening {
  /** ISO 8601 weekday: 1 Monday … 7 Sunday. */
  days: readonly number[];
  /** `HH:MM`; an end at or before the beginning is on the next day. `24:00` is the day's end. */
  from: string;
  to: string;
}

export interface OfficeHours {
  id: string;
  name: string;
  /** IANA. */
  zone: string;
  week: readonly Opening[];
  /** Dates that are otherwise: closed, or open at other hours; a public holiday is one with its name. */
  exceptions: readonly { date: string; name?: string; openings: readonly Omit<Opening, 'days'>[] }[];
}

const MINUTES = /^([01]\d|2[0-4]):([0-5]\d)$/;

/** Minutes since midnight; undefined for what is no time of day. */
export function minutesOf(time: string): number | undefined {
  const [, hours, minutes] = MINUTES.exec(time) ?? [];
  const total = Number(hours) * 60 + Number(minutes);
  return hours === undefined || total > 1440 ? undefined : total;
}

/** Minutes of a day in which it is open, as [from, to); a to beyond 1440 is on the next day. */
function spansOn(hours: OfficeHours, date: Temporal.PlainDate): [number, number][] {
  const exception = hours.exceptions.find((each) => each.date === date.toString());
  const openings = exception ? exception.openings : hours.week.filter(({ days }) => days.includes(date.dayOfWeek));
  return openings.flatMap(({ from, to }): [number, number][] => {
    const begin = minutesOf(from);
    const end = minutesOf(to);
    if (begin === undefined || end === undefined) return [];
    return [[begin, end > begin ? end : end + 1440]];
  });
}

export interface HoursAnswer {
  open: boolean;
  /** The local time, as `Thu 14:30`, with the zone. */
  local: string;
  /** The exception that decided, where one did. */
  exception?: string;
}

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** Wall-clock time decides: an hour that is skipped or comes twice when clocks change is judged as it reads. */
export function hoursAt(hours: OfficeHours, at: number): HoursAnswer {
  const local = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(hours.zone);
  const date = local.toPlainDate();
  const minute = local.hour * 60 + local.minute;
  const today = spansOn(hours, date).some(([from, to]) => minute >= from && minute < to);
  const spilled = spansOn(hours, date.subtract({ days: 1 })).some(([, to]) => minute < to - 1440);
  const exception = hours.exceptions.find((each) => each.date === date.toString());
  const clock = `${String(local.hour).padStart(2, '0')}:${String(local.minute).padStart(2, '0')}`;
  return {
    open: today || spilled,
    local: `${DAYS[local.dayOfWeek - 1]} ${clock} in ${hours.zone}`,
    ...(exception ? { exception: exception.name ?? exception.date } : {}),
  };
}
