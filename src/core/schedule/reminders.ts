/** When an event's reminders are due, and what they are filled with. Pure. */
import { Temporal } from 'temporal-polyfill';
import { LONGEST_VALIDITY } from '../delivery/validity';
import type { PostedRecord } from '../text/fields';
import type { Occurrence } from './feed';

/** Of an event with a time: so long before it begins. Of a whole day: on the day that lies so far before, at the feed's hour. */
export interface ReminderPlan {
  /** Minutes before the beginning, largest first. */
  offsets: readonly number[];
  /** HH:MM at which reminders of whole days leave. */
  dayTime: string;
  zone: string;
}

export interface Reminder {
  /** Minutes before. */
  offset: number;
  /** Epoch milliseconds. */
  at: number;
}

const DAY = 24 * 60;

export function remindersOf(
  event: Pick<Occurrence, 'startsAt' | 'allDay'>,
  { offsets, dayTime, zone }: ReminderPlan,
): Reminder[] {
  return offsets.map((offset) => {
    if (!event.allDay) return { offset, at: event.startsAt - offset * 60_000 };
    const [hour = 0, minute = 0] = dayTime.split(':').map(Number);
    // By the calendar, so that "a day before at nine" is nine o'clock also when the clock changes between.
    const day = Temporal.PlainDate.from(event.allDay).subtract({ days: Math.ceil(offset / DAY) });
    const at = day.toPlainDateTime({ hour, minute }).toZonedDateTime(zone).epochMilliseconds;
    return { offset, at };
  });
}

/**
 * Until when a reminder that leaves at `due` is of use: nobody is reminded of what has begun, nor of a whole day that is
 * over. Undefined where that is further off than providers keep anything.
 */
export function usefulUntil(
  { allDay, startsAt, endsAt }: Pick<Occurrence, 'startsAt' | 'endsAt' | 'allDay'>,
  due: number,
): number | undefined {
  const end = allDay ? endsAt : startsAt;
  return end - due < LONGEST_VALIDITY ? end : undefined;
}

/** What the text of a reminder may be filled with. */
export function recordOfEvent(
  event: Pick<Occurrence, 'title' | 'description' | 'location' | 'startsAt' | 'allDay'>,
  zone: string,
): PostedRecord {
  const at = new Date(event.startsAt);
  const format = (options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options }).format(at);
  return {
    event: {
      title: event.title,
      description: event.description,
      place: event.location,
      day: format({ weekday: 'long' }),
      date: format({ day: 'numeric', month: 'long', year: 'numeric' }),
      time: event.allDay ? 'all day' : format({ hour: '2-digit', minute: '2-digit', hourCycle: 'h23' }),
    },
  };
}
