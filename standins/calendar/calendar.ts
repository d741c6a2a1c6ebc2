/** The duty calendar, simulated: a shared calendar that publishes its events as a feed. */
import { createHash, randomUUID } from 'node:crypto';
import { type Context, Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';

export interface DutyEvent {
  uid: string;
  title: string;
  notes: string;
  /** As on the wall: YYYY-MM-DDTHH:MM, with seconds if need be, or a date alone for a whole day. */
  start: string;
  /** An RRULE without its name; empty for one event. */
  repeats: string;
  cancelled: boolean;
}

export interface CalendarSettings {
  key: string;
  zone: string;
  events: DutyEvent[];
}

/** An event at a moment, written as on the wall of the calendar's zone. */
export function addEvent({ events, zone }: CalendarSettings, title: string, notes: string, at: Date): DutyEvent {
  // This language writes dates as ISO 8601 does.
  const wall = at.toLocaleString('sv-SE', { timeZone: zone }).replace(' ', 'T');
  const event = { uid: `${randomUUID()}@duty`, title, notes, start: wall, repeats: '', cancelled: false };
  events.push(event);
  return event;
}

/** `settings` are kept by whoever made the calendar. */
export function calendarSite(settings: CalendarSettings): Hono {
  const app = new Hono();

  app.get('/:key/duty.ics', (c) => {
    if (c.req.param('key') !== settings.key) return c.text('no such calendar', 404);
    const text = published(settings);
    const etag = `"${createHash('sha1').update(text).digest('hex').slice(0, 16)}"`;
    if (c.req.header('if-none-match') === etag) return c.body(null, 304, { etag });
    return c.body(text, 200, { etag, 'content-type': 'text/calendar; charset=utf-8' });
  });

  app.get('/', (c) =>
    c.html(page({ title: 'Duty calendar', colours: ['#f1f1ea', '#22251c', '#5a6034'], body: body(settings, c) })),
  );
  app.post('/events', async (c) => {
    const form = await c.req.parseBody();
    const text = (name: string) => String(form[name] ?? '').trim();
    settings.events.push({
      uid: `${randomUUID()}@duty`,
      title: text('title'),
      notes: text('notes'),
      start: text('start'),
      repeats: text('repeats'),
      cancelled: false,
    });
    return c.redirect('/');
  });
  app.post('/events/:uid', async (c) => {
    const event = settings.events.find(({ uid }) => uid === c.req.param('uid'));
    const form = await c.req.parseBody();
    if (event) Object.assign(event, { start: String(form.start ?? event.start), cancelled: form.cancelled === 'on' });
    return c.redirect('/');
  });
  return app;
}

/** RFC 5545, with lines folded at 75 octets. */
function published({ zone, events }: CalendarSettings): string {
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Mossgate//Duty calendar//EN',
    'X-WR-CALNAME:Lock duty',
    `X-WR-TIMEZONE:${zone}`,
  ];
  for (const event of events) {
    const start = event.start.replace(/[-:]/g, '');
    lines.push('BEGIN:VEVENT', `UID:${event.uid}`, 'DTSTAMP:20260101T000000Z');
    lines.push(start.includes('T') ? `DTSTART;TZID=${zone}:${start.padEnd(15, '0')}` : `DTSTART;VALUE=DATE:${start}`);
    if (event.repeats) lines.push(`RRULE:${event.repeats}`);
    lines.push(`SUMMARY:${escaped(event.title)}`, `DESCRIPTION:${escaped(event.notes)}`);
    if (event.cancelled) lines.push('STATUS:CANCELLED');
    lines.push('END:VEVENT');
  }
  return [...lines, 'END:VCALENDAR', ''].map(folded).join('\r\n');
}

function escaped(text: string): string {
  return text.replace(/[\\,;]/g, (char) => `\\${char}`).replace(/\r?\n/g, '\\n');
}

function folded(line: string): string {
  const parts: string[] = [];
  let part = '';
  for (const char of line) {
    if (Buffer.byteLength(part + char) > 74) {
      parts.push(part);
      part = ' ';
    }
    part += char;
  }
  return [...parts, part].join('\r\n');
}

function body(settings: CalendarSettings, c: Context) {
  return html`
    <h2>Publish</h2>
    <p>Address of this calendar’s feed <code id="feed">${new URL(`/${settings.key}/duty.ics`, c.req.url).href}</code>, times in ${settings.zone}</p>
    <form method="post" action="/events"><h2>Add an event</h2>
      <label>Title <input name="title"></label>
      <label>Notes <input name="notes"></label>
      <label>Start (YYYY-MM-DDTHH:MM, or a date alone) <input name="start"></label>
      <label>Repeats (RRULE, may stay empty) <input name="repeats"></label><button>Add it</button></form>
    <h2>Events</h2>
    ${settings.events
      .slice(-15)
      .reverse()
      .map(
        (event) => html`<form method="post" action="/events/${event.uid}">
          <p><b>${event.title}</b> ${event.notes} ${event.repeats}</p>
          <label><input name="start" value="${event.start}" style="width:auto"> <input type="checkbox" name="cancelled" style="width:auto" ${event.cancelled ? 'checked' : ''}> cancelled</label>
          <button>Change ${event.title}</button></form>`,
      )}`;
}
