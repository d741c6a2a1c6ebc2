/** Times of a calendar feed: in UTC, in a zone by its name, in a zone only the feed knows, or in none. */
import ICAL from 'ical.js';
import { Temporal } from 'temporal-polyfill';
import { STEPS_OF_EVENT, within } from './bounds';

/** Reads times of a feed in the zones they are in. */
export interface Clock {
  /** Epoch milliseconds of a time as the feed writes it. */
  instant(time: ICAL.Time): number;
  /** False for a time that a change of the clock leaves out. */
  exists(time: ICAL.Time): boolean;
  /** What a clock shows at a UTC time, in the zone another time is in. */
  wall(utc: ICAL.Time, like: ICAL.Time): ICAL.Time;
}

export function clockOf(calendar: ICAL.Component, zone: string): Clock {
  const foreign = new Map(
    calendar.getAllSubcomponents('vtimezone').flatMap((component) => {
      const id = textOf(component, 'tzid');
      return id ? [[id, new ICAL.Timezone({ component, tzid: id })] as const] : [];
    }),
  );
  // A zone of the feed's own has rules like an event, and they may be as endless.
  const zones = { left: STEPS_OF_EVENT };
  return {
    instant(time) {
      const wall = wallOf(time);
      if (time.isDate) return zoned(wall.with({ hour: 0, minute: 0, second: 0 }), zone);
      if (time.zone === ICAL.Timezone.utcTimezone)
        return Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute, time.second);
      const id = zoneId(time);
      if (!id) return zoned(wall, zone);
      // By its name where that means something everywhere: a feed's own copy of a zone grows old.
      if (isZone(id)) return zoned(wall, id);
      const own = foreign.get(id);
      if (!own) throw new Error(`It is in a zone nobody knows, “${id}”, and the feed does not describe it.`);
      const placed = time.clone();
      placed.zone = own;
      return within(zones, () => placed.toUnixTime()) * 1000;
    },
    exists(time) {
      const id = zoneId(time);
      if (time.isDate || time.zone === ICAL.Timezone.utcTimezone || (id && !isZone(id))) return true;
      const wall = wallOf(time);
      return wall.equals(wall.toZonedDateTime(id ?? zone, { disambiguation: 'compatible' }).toPlainDateTime());
    },
    wall(utc, like) {
      const id = zoneId(like);
      const own = id && !isZone(id) ? foreign.get(id) : undefined;
      if (own) return ICAL.Time.fromData(within(zones, () => utc.convertToZone(own)).toJSON());
      const at = Temporal.Instant.fromEpochMilliseconds(utc.toUnixTime() * 1000).toZonedDateTimeISO(
        id && isZone(id) ? id : zone,
      );
      const { year, month, day, hour, minute, second } = at;
      return ICAL.Time.fromData({ year, month, day, hour, minute, second });
    },
  };
}

/** What the event wrote, which ical.js keeps only while it knows the zone. */
function zoneId(time: ICAL.Time): string | undefined {
  const id = time.zone?.tzid;
  if (id && id !== 'floating' && id !== 'UTC') return id;
  return (time as ICAL.Time & { wrote?: string }).wrote;
}

/** RFC 5545 §3.3.5: a time that a clock change leaves out is read with the offset before it, one that comes twice is the first. */
function zoned(wall: Temporal.PlainDateTime, zone: string): number {
  return wall.toZonedDateTime(zone, { disambiguation: 'compatible' }).epochMilliseconds;
}

export function isZone(id: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: id });
    return true;
  } catch {
    return false;
  }
}

function wallOf({ year, month, day, hour, minute, second }: ICAL.Time): Temporal.PlainDateTime {
  return Temporal.PlainDateTime.from({ year, month, day, hour, minute, second });
}

export function textOf(component: ICAL.Component, name: string): string | undefined {
  const value = component.getFirstPropertyValue(name);
  return value === null || value === undefined ? undefined : String(value).trim() || undefined;
}
