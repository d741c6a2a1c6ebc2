/** Which times a recurring event has (RFC 5545 §3.3.10 and §3.8.5), counted on the wall and placed by the clock. */
import ICAL from 'ical.js';
import { STEPS_OF_EVENT, within } from './bounds';
import type { Clock } from './clock';

/** Start and end of an event with the zone each wrote. */
export function written(event: ICAL.Event, name: 'dtstart' | 'dtend' | 'recurrence-id'): ICAL.Time | undefined {
  const property = event.component.getFirstProperty(name);
  const value = property?.getFirstValue();
  if (!property || !(value instanceof ICAL.Time)) return undefined;
  return withZone(value, property.getFirstParameter('tzid'));
}

function withZone(time: ICAL.Time, wrote: string | undefined): ICAL.Time {
  return Object.assign(time, { wrote: wrote?.replace(/^["/]+|["]+$/g, '') });
}

/** An event that recurs very often must not keep us; more times than this before the span and it is told instead. */
const MOST_TIMES = 100_000;
/** Dates an event may list beside its rule, and as many exceptions. */
const MOST_DATES = 5000;
const DAY = 24 * 3_600_000;

export interface Placement {
  /** As the clock on the wall shows it. */
  time: ICAL.Time;
  /** Epoch milliseconds. */
  placedAt: number;
}

/**
 * In order and without an end where the event has none. A time that a change of the clock
 * leaves out is no occurrence and is not counted as one (RFC 5545 §3.3.10). Exceptions are
 * among them, as they count; whoever asks leaves them out, see `excluded`, which is asked first.
 * Times well before `from`, epoch milliseconds, are left out where nothing counts them.
 * Throws where the event recurs too often, or its rule never comes to an end.
 */
export function* placements(event: ICAL.Event, start: ICAL.Time, clock: Clock, from: number): Generator<Placement> {
  const { wrote } = start as ICAL.Time & { wrote?: string };
  untilOnTheWall(event, clock, start);
  requireFew(event, 'rdate');
  event.component.removeAllProperties('exdate');
  const count = readRules(event, start);
  const budget = { left: STEPS_OF_EVENT };
  const dtstart = onTheWall(start);
  const times = within(budget, () => new ICAL.RecurExpansion({ component: event.component, dtstart }));
  let given = 0;
  for (let turn = 0; given < count; turn++) {
    const next = within(budget, () => times.next());
    if (!next) return;
    if (turn > MOST_TIMES)
      throw new Error(`It recurs more than ${MOST_TIMES} times before the time that is looked at.`);
    const time = withZone(next, wrote);
    // No zone is more than a day away from UTC.
    if (count === Number.POSITIVE_INFINITY && onPaper(time) < from - DAY) continue;
    // The first is the event's own beginning and stands as it is written.
    if (turn > 0 && !clock.exists(time)) continue;
    given += 1;
    yield { time, placedAt: clock.instant(time) };
  }
}

/** A time as if it were UTC. */
function onPaper({ year, month, day, hour, minute, second }: ICAL.Time): number {
  return Date.UTC(year, month - 1, day, hour, minute, second);
}

function requireFew(event: ICAL.Event, name: 'rdate' | 'exdate'): void {
  let dates = 0;
  for (const property of event.component.getAllProperties(name)) dates += property.getValues().length;
  if (dates > MOST_DATES) throw new Error(`It lists more than ${MOST_DATES} dates.`);
}

/**
 * Takes the count out of a rule, as only real occurrences are to be counted, and answers it.
 * With further dates beside the rule those would be counted too, so it stays there.
 */
function readRules(event: ICAL.Event, start: ICAL.Time): number {
  const properties = event.component.getAllProperties('rrule');
  const [property] = properties;
  const rule = property?.getFirstValue();
  if (!property || !(rule instanceof ICAL.Recur)) return Number.POSITIVE_INFINITY;
  // A yearly rule from a 29th of February has no other day to fall on in a short year.
  const leap = start.month === 2 && start.day === 29 && rule.freq === 'YEARLY' && Object.keys(rule.parts).length === 0;
  if (leap) Object.assign(rule.parts, { BYMONTH: [2], BYMONTHDAY: [29] });
  const { count } = rule;
  const alone = properties.length === 1 && event.component.getAllProperties('rdate').length === 0;
  if (count && alone) rule.count = null;
  property.setValue(rule);
  return count && alone ? count : Number.POSITIVE_INFINITY;
}

/** Recurrence is counted on the wall: what the clock shows stays the same through a change of it. */
function onTheWall(time: ICAL.Time): ICAL.Time {
  if (time.isDate || time.zone === ICAL.Timezone.utcTimezone) return time;
  const { year, month, day, hour, minute, second } = time;
  return ICAL.Time.fromData({ year, month, day, hour, minute, second });
}

/** RFC 5545 §3.3.10: the end of a rule is in UTC when its times are in a zone; counted on the wall, it must be there too. */
function untilOnTheWall(event: ICAL.Event, clock: Clock, start: ICAL.Time): void {
  if (start.isDate || start.zone === ICAL.Timezone.utcTimezone) return;
  for (const property of event.component.getAllProperties('rrule')) {
    const rule = property.getFirstValue();
    if (!(rule instanceof ICAL.Recur) || rule.until?.zone !== ICAL.Timezone.utcTimezone) continue;
    rule.until = clock.wall(rule.until, start);
    property.setValue(rule);
  }
}

/** Exceptions by their instant: some programs write them in another zone than the event's. */
export function excluded(event: ICAL.Event, clock: Clock): Set<number> {
  requireFew(event, 'exdate');
  return new Set(
    event.component
      .getAllProperties('exdate')
      .flatMap((property) =>
        property
          .getValues()
          .flatMap((value) =>
            value instanceof ICAL.Time ? clock.instant(withZone(value, property.getFirstParameter('tzid'))) : [],
          ),
      ),
  );
}
