/** Worked by hand from RFC 5545 and the published clock changes; recurrence also against an independent library. */
import fc from 'fast-check';
import { RRuleTemporal } from 'rrule-temporal';
import { describe, expect, test } from 'vitest';
import { readFeed } from './feed';

/** An event's lines; the feed around them is the same for all. */
function feed(...lines: string[]): string {
  return ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Mossgate//Duty//EN', ...lines, 'END:VCALENDAR'].join('\r\n');
}
const event = (...lines: string[]) => [
  'BEGIN:VEVENT',
  'UID:e1',
  'DTSTAMP:20260101T000000Z',
  'SUMMARY:Duty',
  ...lines,
  'END:VEVENT',
];

function read(lines: string[], from = '2026-01-01', to = '2027-01-01', zone = 'Europe/London') {
  const reading = readFeed(feed(...lines), {
    from: Date.parse(`${from}T00:00:00Z`),
    to: Date.parse(`${to}T00:00:00Z`),
    zone,
  });
  if (!reading.ok) throw new Error(reading.reason);
  return reading;
}
const times = (...given: Parameters<typeof read>) =>
  read(...given).occurrences.map(
    ({ startsAt, allDay }) => allDay ?? new Date(startsAt).toISOString().replace(':00.000Z', 'Z'),
  );

const LONDON = 'DTSTART;TZID=Europe/London';
/** A zone with a name of its own: two hours ahead, three from the last Sunday of March to that of October. */
const FOREIGN = [
  'BEGIN:VTIMEZONE',
  'TZID:Harbour House Time',
  'BEGIN:STANDARD',
  'DTSTART:19701025T040000',
  'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
  'TZOFFSETFROM:+0300',
  'TZOFFSETTO:+0200',
  'END:STANDARD',
  'BEGIN:DAYLIGHT',
  'DTSTART:19700329T030000',
  'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  'TZOFFSETFROM:+0200',
  'TZOFFSETTO:+0300',
  'END:DAYLIGHT',
  'END:VTIMEZONE',
];

describe('one event', () => {
  test.each<[string, string[], string[]]>([
    ['in UTC', event('DTSTART:20260504T090000Z'), ['2026-05-04T09:00Z']],
    ['in a zone, in summer', event(`${LONDON}:20260504T090000`), ['2026-05-04T08:00Z']],
    ['in a zone, in winter', event(`${LONDON}:20261104T090000`), ['2026-11-04T09:00Z']],
    ['floating: in the zone of the feed’s settings', event('DTSTART:20260504T090000'), ['2026-05-04T08:00Z']],
    [
      'floating: in the zone the feed names',
      ['X-WR-TIMEZONE:Europe/Stockholm', ...event('DTSTART:20260504T090000')],
      ['2026-05-04T07:00Z'],
    ],
    ['a whole day', event('DTSTART;VALUE=DATE:20260504'), ['2026-05-04']],
    [
      'in a zone only the feed knows, in summer',
      [...FOREIGN, ...event('DTSTART;TZID=Harbour House Time:20260504T090000')],
      ['2026-05-04T06:00Z'],
    ],
    [
      'in a zone only the feed knows, in winter',
      [...FOREIGN, ...event('DTSTART;TZID=Harbour House Time:20260104T090000')],
      ['2026-01-04T07:00Z'],
    ],
    ['a zone in quotes', event('DTSTART;TZID="Europe/London":20260504T090000'), ['2026-05-04T08:00Z']],
    [
      'in the hour that the clock leaves out: with the offset before',
      event(`${LONDON}:20260329T013000`),
      ['2026-03-29T01:30Z'],
    ],
    ['in the hour that comes twice: the first', event(`${LONDON}:20261025T013000`), ['2026-10-25T00:30Z']],
    ['across the date line of the zone', event('DTSTART;TZID=Pacific/Auckland:20260504T090000'), ['2026-05-03T21:00Z']],
    ['a zone of half an hour', event('DTSTART;TZID=Asia/Kolkata:20260504T090000'), ['2026-05-04T03:30Z']],
    ['before the span', event('DTSTART:20251231T235959Z'), []],
    ['at its very beginning', event('DTSTART:20260101T000000Z'), ['2026-01-01T00:00Z']],
    ['at its end, which is no more of it', event('DTSTART:20270101T000000Z'), []],
  ])('%s', (_, lines, expected) => expect(times(lines)).toEqual(expected));
});

describe('recurrence', () => {
  test.each<[string, string[], string[]]>([
    [
      'daily, three times',
      event('DTSTART:20260504T090000Z', 'RRULE:FREQ=DAILY;COUNT=3'),
      ['2026-05-04T09:00Z', '2026-05-05T09:00Z', '2026-05-06T09:00Z'],
    ],
    [
      'weekly across the change to summer: the clock on the wall stays',
      event(`${LONDON}:20260322T090000`, 'RRULE:FREQ=WEEKLY;COUNT=3'),
      ['2026-03-22T09:00Z', '2026-03-29T08:00Z', '2026-04-05T08:00Z'],
    ],
    [
      'weekly across the change to winter',
      event(`${LONDON}:20261018T090000`, 'RRULE:FREQ=WEEKLY;COUNT=3'),
      ['2026-10-18T08:00Z', '2026-10-25T09:00Z', '2026-11-01T09:00Z'],
    ],
    [
      'daily through the hour that is left out: no occurrence, and not counted as one',
      event(`${LONDON}:20260328T013000`, 'RRULE:FREQ=DAILY;COUNT=3'),
      ['2026-03-28T01:30Z', '2026-03-30T00:30Z', '2026-03-31T00:30Z'],
    ],
    [
      'daily through the hour that comes twice',
      event(`${LONDON}:20261024T013000`, 'RRULE:FREQ=DAILY;COUNT=3'),
      ['2026-10-24T00:30Z', '2026-10-25T00:30Z', '2026-10-26T01:30Z'],
    ],
    [
      'in New York, whose change is on another day',
      event('DTSTART;TZID=America/New_York:20260301T090000', 'RRULE:FREQ=WEEKLY;COUNT=3'),
      ['2026-03-01T14:00Z', '2026-03-08T13:00Z', '2026-03-15T13:00Z'],
    ],
    [
      'in a zone only the feed knows, across its change',
      [...FOREIGN, ...event('DTSTART;TZID=Harbour House Time:20260328T090000', 'RRULE:FREQ=DAILY;COUNT=2')],
      ['2026-03-28T07:00Z', '2026-03-29T06:00Z'],
    ],
    [
      'until a UTC time that is the last one’s in summer',
      event(`${LONDON}:20260501T090000`, 'RRULE:FREQ=DAILY;UNTIL=20260503T080000Z'),
      ['2026-05-01T08:00Z', '2026-05-02T08:00Z', '2026-05-03T08:00Z'],
    ],
    [
      'until a second before',
      event(`${LONDON}:20260501T090000`, 'RRULE:FREQ=DAILY;UNTIL=20260503T075959Z'),
      ['2026-05-01T08:00Z', '2026-05-02T08:00Z'],
    ],
    [
      'whole days until a date',
      event('DTSTART;VALUE=DATE:20260501', 'RRULE:FREQ=DAILY;UNTIL=20260503'),
      ['2026-05-01', '2026-05-02', '2026-05-03'],
    ],
    [
      'the last Friday of each month',
      event('DTSTART:20260130T120000Z', 'RRULE:FREQ=MONTHLY;BYDAY=-1FR;COUNT=3'),
      ['2026-01-30T12:00Z', '2026-02-27T12:00Z', '2026-03-27T12:00Z'],
    ],
    [
      'the 31st, where there is one',
      event('DTSTART:20260131T120000Z', 'RRULE:FREQ=MONTHLY;COUNT=3'),
      ['2026-01-31T12:00Z', '2026-03-31T12:00Z', '2026-05-31T12:00Z'],
    ],
    [
      'Tuesday and Thursday of every other week',
      event('DTSTART:20260505T120000Z', 'RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH;COUNT=4'),
      ['2026-05-05T12:00Z', '2026-05-07T12:00Z', '2026-05-19T12:00Z', '2026-05-21T12:00Z'],
    ],
    [
      'the second to last workday of a month',
      event('DTSTART:20260528T120000Z', 'RRULE:FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=2'),
      ['2026-05-28T12:00Z', '2026-06-29T12:00Z'],
    ],
    ['the 29th of February, in the next leap year', event('DTSTART:20240229T120000Z', 'RRULE:FREQ=YEARLY'), []],
    ['each year since long ago', event('DTSTART;VALUE=DATE:19500504', 'RRULE:FREQ=YEARLY'), ['2026-05-04']],
    [
      'dates of its own beside the rule',
      event('DTSTART:20260504T090000Z', 'RRULE:FREQ=DAILY;COUNT=1', 'RDATE:20260510T100000Z,20260512T100000Z'),
      ['2026-05-04T09:00Z', '2026-05-10T10:00Z', '2026-05-12T10:00Z'],
    ],
    ['an end that has passed', event('DTSTART:20240504T090000Z', 'RRULE:FREQ=DAILY;UNTIL=20250101T000000Z'), []],
  ])('%s', (_, lines, expected) => expect(times(lines)).toEqual(expected));
});

describe('exceptions', () => {
  const daily = (...more: string[]) => event(`${LONDON}:20260504T090000`, 'RRULE:FREQ=DAILY;COUNT=3', ...more);
  const moved = (was: string, start: string, ...more: string[]) =>
    event(`RECURRENCE-ID;TZID=Europe/London:${was}`, `DTSTART;TZID=Europe/London:${start}`, ...more);
  test.each<[string, string[], string[]]>([
    ['one is left out', daily('EXDATE;TZID=Europe/London:20260505T090000'), ['2026-05-04T08:00Z', '2026-05-06T08:00Z']],
    ['one is left out, written in UTC', daily('EXDATE:20260505T080000Z'), ['2026-05-04T08:00Z', '2026-05-06T08:00Z']],
    ['two in one line', daily('EXDATE;TZID=Europe/London:20260504T090000,20260506T090000'), ['2026-05-05T08:00Z']],
    [
      'an exception at another time leaves nothing out',
      daily('EXDATE;TZID=Europe/London:20260505T100000'),
      ['2026-05-04T08:00Z', '2026-05-05T08:00Z', '2026-05-06T08:00Z'],
    ],
    [
      'a whole day is left out',
      event('DTSTART;VALUE=DATE:20260504', 'RRULE:FREQ=DAILY;COUNT=3', 'EXDATE;VALUE=DATE:20260505'),
      ['2026-05-04', '2026-05-06'],
    ],
    [
      'one is moved',
      [...daily(), ...moved('20260505T090000', '20260505T140000')],
      ['2026-05-04T08:00Z', '2026-05-05T13:00Z', '2026-05-06T08:00Z'],
    ],
    [
      'one is moved past the others',
      [...daily(), ...moved('20260504T090000', '20260510T090000')],
      ['2026-05-05T08:00Z', '2026-05-06T08:00Z', '2026-05-10T08:00Z'],
    ],
    [
      'the changed one stands first in the feed',
      [...moved('20260505T090000', '20260505T140000'), ...daily()],
      ['2026-05-04T08:00Z', '2026-05-05T13:00Z', '2026-05-06T08:00Z'],
    ],
    [
      'its place is written in UTC',
      [...daily(), ...event('RECURRENCE-ID:20260505T080000Z', 'DTSTART:20260505T150000Z')],
      ['2026-05-04T08:00Z', '2026-05-05T15:00Z', '2026-05-06T08:00Z'],
    ],
    [
      'from one on, all are later',
      [
        ...daily(),
        ...event(
          'RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Europe/London:20260505T090000',
          'DTSTART;TZID=Europe/London:20260505T110000',
        ),
      ],
      ['2026-05-04T08:00Z', '2026-05-05T10:00Z', '2026-05-06T10:00Z'],
    ],
    ['only the changed one is in the feed', moved('20260505T090000', '20260505T140000'), ['2026-05-05T13:00Z']],
  ])('%s', (_, lines, expected) => expect(times(lines)).toEqual(expected));

  test('one that is moved keeps its key, so that its reminder moves with it', () => {
    const keys = (lines: string[]) =>
      read(lines)
        .occurrences.map(({ key }) => key)
        .sort();
    expect(keys([...daily(), ...moved('20260505T090000', '20260507T140000')])).toEqual(keys(daily()));
  });

  test('an event that does not recur is the same at any time', () => {
    const keys = ['20260504T090000Z', '20260601T090000Z'].map((at) => read(event(`DTSTART:${at}`)).occurrences[0]?.key);
    expect(keys).toEqual(['e1', 'e1']);
  });

  test('moved out of the span it is gone, moved into it it is there', () => {
    const lines = [...daily(), ...moved('20260505T090000', '20260605T090000')];
    expect(times(lines, '2026-05-01', '2026-06-01')).toEqual(['2026-05-04T08:00Z', '2026-05-06T08:00Z']);
    expect(times(lines, '2026-06-01', '2026-07-01')).toEqual(['2026-06-05T08:00Z']);
  });

  test('a cancelled occurrence is told as such, with its own words', () => {
    const { occurrences } = read([...daily(), ...moved('20260505T090000', '20260505T090000', 'STATUS:CANCELLED')]);
    expect(occurrences.map(({ cancelled }) => cancelled)).toEqual([false, true, false]);
  });
});

describe('what an event holds', () => {
  test('words with commas and lines, who attends, how long it lasts', () => {
    const lines = event(
      `${LONDON}:20260504T090000`,
      'DURATION:PT90M',
      'LOCATION:North lock\\, west gate',
      'DESCRIPTION:Call +44 7700 900123\\nor',
      '  write.',
      'ATTENDEE;CN="Calder, Ines":mailto:ines@boats.example',
      'ATTENDEE:tel:+447700900123',
    );
    expect(read(lines).occurrences[0]).toMatchObject({
      endsAt: Date.parse('2026-05-04T09:30:00Z'),
      location: 'North lock, west gate',
      description: 'Call +44 7700 900123\nor write.',
      attendees: [
        { name: 'Calder, Ines', address: 'mailto:ines@boats.example' },
        { name: '', address: 'tel:+447700900123' },
      ],
    });
  });

  test('a whole day lasts one, also through a change of the clock', () => {
    const [day] = read(event('DTSTART;VALUE=DATE:20260329', 'DTEND;VALUE=DATE:20260330')).occurrences;
    expect([day?.allDay, (day?.endsAt ?? 0) - (day?.startsAt ?? 0)]).toEqual(['2026-03-29', 23 * 3_600_000]);
  });

  test('what cannot be placed is told with the reason, and the others are there', () => {
    const { occurrences, problems } = read([
      ...event('DTSTART;TZID=Nowhere/Else:20260504T090000'),
      'BEGIN:VEVENT',
      'UID:e2',
      'DTSTART:20260505T090000Z',
      'END:VEVENT',
      'BEGIN:VEVENT',
      'UID:e3',
      'SUMMARY:Undated',
      'END:VEVENT',
    ]);
    expect(occurrences.map(({ uid }) => uid)).toEqual(['e2']);
    expect(problems).toMatchObject([
      { uid: 'e1', reason: expect.stringContaining('“Nowhere/Else”') },
      { uid: 'e3', title: 'Undated' },
    ]);
  });

  test.each([
    ['<!doctype html><html>', 'a web page'],
    ['hello', 'no iCalendar'],
    ['', 'no iCalendar'],
    ['BEGIN:VCARD\r\nEND:VCARD', 'vcard'],
  ])('%j is refused with the reason', (text, reason) => {
    expect(readFeed(text, { from: 0, to: 1, zone: 'UTC' })).toEqual({
      ok: false,
      reason: expect.stringContaining(reason),
    });
  });
});

test('the same occurrences as an independent library, through clock changes and years', () => {
  const zone = fc.constantFrom(
    'Europe/London',
    'America/New_York',
    'Australia/Sydney',
    'Asia/Kolkata',
    'America/Sao_Paulo',
    'UTC',
  );
  const rule = fc.oneof(
    fc.record({ FREQ: fc.constant('DAILY'), INTERVAL: fc.integer({ min: 1, max: 20 }) }),
    fc.record({
      FREQ: fc.constant('WEEKLY'),
      INTERVAL: fc.integer({ min: 1, max: 3 }),
      BYDAY: fc.subarray(['MO', 'WE', 'SU'], { minLength: 1 }),
    }),
    fc.record({
      FREQ: fc.constant('MONTHLY'),
      BYDAY: fc.constantFrom('1MO', '-1FR', '2SU', '-1SU'),
      INTERVAL: fc.integer({ min: 1, max: 3 }),
    }),
    fc.record({ FREQ: fc.constant('MONTHLY'), BYMONTHDAY: fc.constantFrom('1', '15', '-1', '31') }),
    fc.record({
      FREQ: fc.constant('YEARLY'),
      BYMONTH: fc.constantFrom('3', '10'),
      BYDAY: fc.constantFrom('-1SU', '1MO'),
    }),
  );
  const ends = fc.oneof(
    fc.record({ COUNT: fc.integer({ min: 1, max: 30 }) }),
    fc.constant({}),
    fc.record({ UNTIL: fc.constantFrom('20261025T003000Z', '20270328T010000Z') }),
  );
  const start = fc.record({
    month: fc.integer({ min: 1, max: 12 }),
    day: fc.integer({ min: 1, max: 28 }),
    hour: fc.integer({ min: 0, max: 23 }),
    minute: fc.constantFrom(0, 30),
  });
  const two = (n: number) => String(n).padStart(2, '0');
  fc.assert(
    fc.property(zone, rule, ends, start, (tzid, parts, end, { month, day, hour, minute }) => {
      const text = Object.entries({ ...parts, ...end })
        .map(([name, value]) => `${name}=${value}`)
        .join(';');
      const dtstart =
        tzid === 'UTC'
          ? `DTSTART:2026${two(month)}${two(day)}T${two(hour)}${two(minute)}00Z`
          : `DTSTART;TZID=${tzid}:2026${two(month)}${two(day)}T${two(hour)}${two(minute)}00`;
      const [from, to] = [Date.parse('2026-01-01T00:00:00Z'), Date.parse('2027-12-31T00:00:00Z')];
      const ours = read(event(dtstart, `RRULE:${text}`), '2026-01-01', '2027-12-31').occurrences.map(
        ({ startsAt }) => startsAt,
      );
      const theirs = new RRuleTemporal({ rruleString: `${dtstart}\nRRULE:${text}` })
        .between(new Date(from), new Date(to), true)
        .map((at) => at.epochMilliseconds);
      // DTSTART is the first occurrence whether or not the rule would place one there (RFC 5545 §3.8.5.3): only what both define is compared.
      const first = ours[0];
      expect(ours.filter((at) => at !== first)).toEqual(theirs.filter((at) => at !== first && at < to));
    }),
    { numRuns: 120 },
  );
});

describe('a rule that never comes to an end is a problem of its own event', () => {
  const good = event('DTSTART:20260504T090000Z').map((line) => line.replace('UID:e1', 'UID:good'));
  const endless = [
    'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31',
    'FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30',
    'FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=31',
    'FREQ=DAILY;INTERVAL=0;BYMONTH=2',
    'FREQ=DAILY;INTERVAL=2000000000',
    'FREQ=WEEKLY;INTERVAL=999999999;BYDAY=MO',
    'FREQ=DAILY;UNTIL=99991231T000000Z;BYMONTH=2;BYMONTHDAY=31',
  ];
  test.each(endless)('%s', (rule) => {
    const { occurrences, problems } = read([...event('DTSTART:20260101T090000Z', `RRULE:${rule}`), ...good]);
    expect(occurrences.map(({ uid }) => uid)).toContain('good');
    expect(problems.length + occurrences.length).toBeGreaterThan(0);
    for (const { reason } of problems) expect(reason.length).toBeGreaterThan(10);
  });

  test('the shortest such calendar says which event it is and why', () => {
    const { problems } = read(event('DTSTART:20260101T090000Z', `RRULE:${endless[0]}`));
    expect(problems).toEqual([{ uid: 'e1', title: 'Duty', reason: expect.stringContaining('never comes to an end') }]);
  });

  test('a zone only the feed knows may be as endless', () => {
    const zone = FOREIGN.map((line) => (line.startsWith('RRULE') ? 'RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31' : line));
    const { occurrences, problems } = read([
      ...zone,
      ...event('DTSTART;TZID=Harbour House Time:20260504T090000'),
      ...good,
    ]);
    expect(occurrences.map(({ uid }) => uid)).toEqual(['good']);
    expect(problems).toHaveLength(1);
  });

  test('dates without end are refused by their number', () => {
    const dates = Array.from({ length: 6000 }, (_, n) => new Date(Date.UTC(2026, 0, 1, n)).toISOString());
    const list = dates.map((date) => `${date.slice(0, 19).replace(/[-:]/g, '')}Z`).join(',');
    for (const name of ['RDATE', 'EXDATE']) {
      const { problems } = read(event('DTSTART:20260101T090000Z', 'RRULE:FREQ=DAILY', `${name}:${list}`));
      expect(problems).toMatchObject([{ reason: 'It lists more than 5000 dates.' }]);
    }
  });

  test('what recurs for many years is not mistaken for it', () => {
    const { occurrences, problems } = read(
      event('DTSTART:19260101T090000Z', 'RRULE:FREQ=DAILY'),
      '2026-01-01',
      '2026-02-01',
    );
    expect([occurrences.length, problems]).toEqual([31, []]);
  });
});
