/**
 * Calendar feeds: which occurrences an iCalendar text (RFC 5545) has in a span of time, and
 * when each begins. Parsing and recurrence are ical.js's; zones by name are IANA's, and a
 * zone that only the feed knows is taken from its VTIMEZONE. Pure.
 */
import ICAL from 'ical.js';
import { Temporal } from 'temporal-polyfill';
import { type Clock, clockOf, isZone, textOf } from './clock';
import { excluded, placements, written } from './recurrence';

export interface Occurrence {
  /** The same when it is moved: the event's UID and, where it recurs, when the rule had placed it. */
  key: string;
  uid: string;
  title: string;
  description: string;
  location: string;
  /** Epoch milliseconds; of a whole day, midnight in the feed's zone. */
  startsAt: number;
  endsAt: number;
  /** For a whole day its date, YYYY-MM-DD, which no zone moves. */
  allDay?: string;
  cancelled: boolean;
  attendees: { name: string; address: string }[];
}

export interface FeedProblem {
  uid: string;
  title: string;
  reason: string;
}

export type FeedReading =
  | { ok: true; name?: string; zone?: string; occurrences: Occurrence[]; problems: FeedProblem[] }
  | { ok: false; reason: string };

export interface FeedSpan {
  /** Epoch milliseconds; occurrences that begin in [from, to) are wanted. */
  from: number;
  to: number;
  /** IANA zone of times that name none, unless the feed names its own. */
  zone: string;
}

const MOST_OCCURRENCES = 5000;

export function readFeed(text: string, { from, to, zone }: FeedSpan): FeedReading {
  let calendar: ICAL.Component;
  try {
    const parsed = ICAL.parse(text.replace(/^\ufeff/, '').trim());
    calendar = new ICAL.Component((Array.isArray(parsed[0]) ? parsed[0] : parsed) as never);
  } catch (error) {
    const page = /^\s*</.test(text);
    const reason = page ? 'it is a web page, such as one to sign in' : (error as Error).message;
    return { ok: false, reason: `This is no iCalendar: ${reason}.` };
  }
  if (calendar.name !== 'vcalendar')
    return { ok: false, reason: `This is no iCalendar: it begins with ${calendar.name}.` };
  const named = textOf(calendar, 'x-wr-timezone');
  const own = named && isZone(named) ? named : undefined;
  const clock = clockOf(calendar, own ?? zone);
  const occurrences: Occurrence[] = [];
  const problems: FeedProblem[] = [];
  for (const group of eventsByUid(calendar).values()) {
    try {
      if (group.length > MOST_OCCURRENCES) throw new Error(`It is changed more than ${MOST_OCCURRENCES} times.`);
      occurrences.push(...expand(group, clock, from, to));
    } catch (error) {
      const [event] = group;
      problems.push({ uid: event?.uid ?? '', title: event?.summary ?? '', reason: (error as Error).message });
    }
    if (occurrences.length > MOST_OCCURRENCES)
      return { ok: false, reason: `The feed has more than ${MOST_OCCURRENCES} events in this time.` };
  }
  occurrences.sort((a, b) => a.startsAt - b.startsAt || a.key.localeCompare(b.key));
  return {
    ok: true,
    name: textOf(calendar, 'x-wr-calname') ?? textOf(calendar, 'name'),
    zone: own,
    occurrences,
    problems,
  };
}

/** The event and its moved or changed occurrences, by UID; an event without one stands for itself. */
function eventsByUid(calendar: ICAL.Component): Map<string, ICAL.Event[]> {
  const groups = new Map<string, ICAL.Event[]>();
  for (const [index, component] of calendar.getAllSubcomponents('vevent').entries()) {
    const event = new ICAL.Event(component, { strictExceptions: false, exceptions: [] });
    const uid = event.uid || `event ${index}`;
    const group = groups.get(uid);
    if (group) group.push(event);
    else groups.set(uid, [event]);
  }
  return groups;
}

function expand(group: readonly ICAL.Event[], clock: Clock, from: number, to: number): Occurrence[] {
  const master = group.find((event) => !written(event, 'recurrence-id'));
  const changed = new Map(
    group.flatMap((event) => {
      const was = written(event, 'recurrence-id');
      return was ? [[clock.instant(was), event] as const] : [];
    }),
  );
  const found: Occurrence[] = [];
  const recurs = master?.isRecurring() ?? true;
  const add = (event: ICAL.Event, placedAt: number, start: ICAL.Time, startsAt: number, lasts: number) => {
    if (startsAt >= from && startsAt < to)
      found.push(occurrence(event, recurs ? placedAt : undefined, start, startsAt, lasts));
  };
  // What was moved into the span counts wherever the rule had placed it.
  for (const [placedAt, event] of changed) {
    const start = written(event, 'dtstart');
    if (!start) throw new Error('A changed occurrence has no beginning.');
    const startsAt = clock.instant(start);
    add(event, placedAt, start, startsAt, lasting(event, clock, startsAt));
  }
  if (!master) return found;
  const start = written(master, 'dtstart');
  if (!start) throw new Error('It has no beginning.');
  const firstAt = clock.instant(start);
  const lasts = lasting(master, clock, firstAt);
  if (!master.isRecurring()) {
    add(master, firstAt, start, firstAt, lasts);
    return found;
  }
  const left = excluded(master, clock);
  const future = later(group, clock);
  for (const { time, placedAt } of placements(master, start, clock, from)) {
    if (placedAt >= to) return found;
    if (changed.has(placedAt) || left.has(placedAt)) continue;
    const change = future.findLast((one) => one.placedAt <= placedAt);
    if (change) add(change.event, placedAt, time, placedAt + change.by, change.lasts);
    else add(master, placedAt, time, placedAt, lasts);
  }
  return found;
}

/** Changes that hold from one occurrence on (RFC 5545 §3.2.13), earliest first, with the milliseconds they move by. */
function later(group: readonly ICAL.Event[], clock: Clock) {
  return group
    .flatMap((event) => {
      const was = written(event, 'recurrence-id');
      const start = written(event, 'dtstart');
      const range = event.component.getFirstProperty('recurrence-id')?.getFirstParameter('range');
      if (!was || !start || range !== 'THISANDFUTURE') return [];
      const placedAt = clock.instant(was);
      const startsAt = clock.instant(start);
      return [{ event, placedAt, by: startsAt - placedAt, lasts: lasting(event, clock, startsAt) }];
    })
    .sort((a, b) => a.placedAt - b.placedAt);
}

/** Milliseconds from beginning to end; a day for a whole day that says nothing (RFC 5545 §3.6.1). */
function lasting(event: ICAL.Event, clock: Clock, startsAt: number): number {
  const end = written(event, 'dtend');
  if (end) return Math.max(0, clock.instant(end) - startsAt);
  const duration = event.component.getFirstPropertyValue('duration');
  if (duration instanceof ICAL.Duration) return duration.toSeconds() * 1000;
  return written(event, 'dtstart')?.isDate ? 24 * 3_600_000 : 0;
}

function occurrence(
  event: ICAL.Event,
  placedAt: number | undefined,
  start: ICAL.Time,
  startsAt: number,
  lasts: number,
): Occurrence {
  const attendees = event.component.getAllProperties('attendee').map((property) => ({
    name: property.getFirstParameter('cn') ?? '',
    address: String(property.getFirstValue() ?? ''),
  }));
  return {
    key: placedAt === undefined ? event.uid : `${event.uid} ${new Date(placedAt).toISOString()}`,
    uid: event.uid,
    title: event.summary ?? '',
    description: event.description ?? '',
    location: event.location ?? '',
    startsAt,
    endsAt: startsAt + lasts,
    allDay: start.isDate
      ? Temporal.PlainDate.from({ year: start.year, month: start.month, day: start.day }).toString()
      : undefined,
    cancelled: textOf(event.component, 'status')?.toUpperCase() === 'CANCELLED',
    attendees,
  };
}
