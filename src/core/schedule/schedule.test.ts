import { describe, expect, test } from 'vitest';
import { answerIn } from './answer';
import { contactsIn, contactsInText } from './contactsIn';
import { recordOfEvent, remindersOf, usefulUntil } from './reminders';

describe('numbers and addresses in an event', () => {
  test.each<[string, string | undefined, string[]]>([
    ['Passage Ines +44 7700 900123', undefined, ['+447700900123']],
    ['Tel. 07700 900123, or (020) 7946-0114', 'GB', ['+447700900123', '+442079460114']],
    ['07700 900123', undefined, []],
    ['0046 70-174 06 12', undefined, ['+46701740612']],
    ['06 39 98 04 17', 'FR', ['+33639980417']],
    ['On 2026-05-04 at 10:00, berth 12, order 20260504123', 'GB', []],
    ['04.05.2026 and 01/02/2026', 'GB', []],
    ['+447700900123 / +44 7700 900123', undefined, ['+447700900123']],
    ['ref A+447700900123', undefined, []],
    ['+1 212 555 0123', undefined, ['+12125550123']],
  ])('%s', (text, country, phones) => expect(contactsInText(text, country).phones).toEqual(phones));

  test('in title, attendees, description and place, in that order, each once', () => {
    const event = {
      title: 'Lock duty (+46 70 174 06 12)',
      attendees: [
        { name: 'Ines +44 7700 900123', address: 'mailto:Ines@Boats.example' },
        { name: '', address: 'tel:+33639980417' },
      ],
      description: 'Again +46701740612; mail keeper@mossgate.example.',
      location: 'Quay',
    };
    expect(contactsIn(event)).toEqual({
      phones: ['+46701740612', '+447700900123', '+33639980417'],
      emails: ['ines@boats.example', 'keeper@mossgate.example'],
    });
  });
});

describe('yes and no', () => {
  test.each([
    'Yes',
    'YES!',
    'yes please, see you then',
    'Ok 👍',
    '👍',
    'Oui, merci',
    'ja',
    'Ja, gerne',
    'Sí',
    'si claro',
    'Sim',
    'Tak.',
    'Kyllä',
    'Fine by me',
    'No problem',
    'Pas de problème !',
    'No worries, yes',
    'Y',
    'Yes I will be there on Tuesday with the boat and the dog as well',
  ])('%s is yes', (text) => expect(answerIn(text)).toBe('yes'));
  test.each([
    'No',
    'no.',
    'Nope, sorry',
    'Non merci',
    'Nein, leider nicht',
    'Nej tack',
    'nee',
    'Não',
    'Nie',
    'I can’t, sorry',
    'cannot make it',
    'Please cancel',
    '👎',
    'Not OK',
    'I cannot confirm',
  ])('%s is no', (text) => expect(answerIn(text)).toBe('no'));
  test.each([
    '',
    '?',
    'What time was it?',
    'Yes or no?',
    'yes, no, I do not know',
    'Not sure',
    'Maybe',
    'Notable',
    'Yesterday',
    'Nothing',
    'Could you tell me again where the meeting point is because I have lost it, yes',
  ])('%j says neither', (text) => expect(answerIn(text)).toBe(undefined));
});

describe('reminders', () => {
  const plan = { offsets: [1440, 60], dayTime: '09:00', zone: 'Europe/London' };
  const iso = (given: Parameters<typeof remindersOf>) =>
    remindersOf(...given).map(({ at }) => new Date(at).toISOString());

  test('so long before an event', () => {
    expect(iso([{ startsAt: Date.parse('2026-05-04T13:30:00Z') }, plan])).toEqual([
      '2026-05-03T13:30:00.000Z',
      '2026-05-04T12:30:00.000Z',
    ]);
  });

  test('of a whole day at the hour on the wall, also when the clock changes in between', () => {
    expect(
      iso([
        { startsAt: 0, allDay: '2026-03-29' },
        { ...plan, offsets: [1440, 0] },
      ]),
    ).toEqual(['2026-03-28T09:00:00.000Z', '2026-03-29T08:00:00.000Z']);
  });

  test('day, date and time as people of the zone read them', () => {
    const event = {
      title: 'Duty',
      description: '',
      location: 'North lock',
      startsAt: Date.parse('2026-05-04T22:30:00Z'),
    };
    expect(recordOfEvent(event, 'Europe/London').event).toMatchObject({
      day: 'Monday',
      date: '4 May 2026',
      time: '23:30',
      place: 'North lock',
    });
    expect(recordOfEvent(event, 'Europe/Stockholm').event).toMatchObject({
      day: 'Tuesday',
      date: '5 May 2026',
      time: '00:30',
    });
    expect(recordOfEvent({ ...event, allDay: '2026-05-04' }, 'Europe/London').event).toMatchObject({ time: 'all day' });
  });
});

test('a reminder is of use until the event begins, of a whole day until it is over, and far off it is not told', () => {
  const [startsAt, endsAt, day] = [100 * 86_400_000, 101 * 86_400_000, 86_400_000];
  expect(usefulUntil({ startsAt, endsAt }, startsAt - day)).toBe(startsAt);
  expect(usefulUntil({ startsAt, endsAt, allDay: '1970-04-11' }, startsAt - day)).toBe(endsAt);
  expect(usefulUntil({ startsAt, endsAt }, startsAt - 90 * day)).toBeUndefined();
});
