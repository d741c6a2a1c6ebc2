/** A calendar over the wire: reminders planned, moved, cancelled and answered, across a restart. */
import { createServer, type Server } from 'node:http';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  addFeed,
  changeFeed,
  type FeedInput,
  listFeeds,
  switchFeed,
  syncNow,
} from '../src/operations/apps/feeds/feeds';
import { SYSTEM } from '../src/operations/context/actor';
import { getMailAccount, mailboxesForNotices, setMailAccount } from '../src/operations/people/mailNotices';
import { connectMailbox, sendNotices } from './harness/mail';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { passTime, settle } from './harness/rest';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;
let calendar: Server;
let body = '';
let status = 200;
const asked: (string | undefined)[] = [];
let id = '';

const MINUTE = 60_000;
/** Seconds from now as the calendar writes it. */
const stamp = (at: number) => new Date(at).toISOString().replace(/[-:]|\.\d+/g, '');
const event = (uid: string, at: number, ...more: string[]) =>
  ['BEGIN:VEVENT', `UID:${uid}`, 'DTSTAMP:20260101T000000Z', `DTSTART:${stamp(at)}`, ...more, 'END:VEVENT'].join(
    '\r\n',
  );

function publish(...events: string[]) {
  body = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Mossgate//EN',
    'X-WR-CALNAME:Duty',
    ...events,
    'END:VCALENDAR',
  ].join('\r\n');
}

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
  calendar = createServer((request, response) => {
    asked.push(request.headers['if-none-match']);
    const etag = `"${body.length}-${body.split('DTSTART').length}"`;
    response.writeHead(status === 200 && request.headers['if-none-match'] === etag ? 304 : status, {
      etag,
      'content-type': 'text/calendar',
    });
    response.end(body);
  });
  await new Promise<void>((resolve) => calendar.listen(0, '127.0.0.1', resolve));
});
afterAll(async () => {
  calendar.close();
  await installation.stop();
});

function input(more: Partial<FeedInput> = {}): FeedInput {
  const { port } = calendar.address() as { port: number };
  return {
    name: 'Duty',
    url: `http://127.0.0.1:${port}/secret-7731/duty.ics`,
    periodMinutes: 15,
    zone: 'Europe/London',
    country: 'GB',
    dayTime: '09:00',
    offsets: [60],
    text: '{{ event.title }} at {{ event.time }}. Can you? Answer yes or no.',
    sender: { by: 'channel', channel: mossgate.channel.id },
    notify: '',
    ...more,
  };
}

const view = async () => {
  const [feed] = await listFeeds(installation.ctx, SYSTEM, mossgate.appId);
  if (!feed) throw new Error('There is no feed');
  return feed;
};
const titled = async (title: string) => (await view()).events.find(({ event }) => event.title === title);
const texts = async (phone = INES) => (await installation.bench.received(phone)).map(({ text }) => text);
/** What is due in minutes is waited for in a moment. */
const inTime = (what: string, ask: () => Promise<unknown>) => passTime(installation, until(what, ask), MINUTE);
async function sync() {
  const before = (await view()).feed.syncedAt ?? 0;
  await syncNow(installation.ctx, SYSTEM, id);
  await until('the feed was read', async () => ((await view()).feed.syncedAt ?? 0) > before);
}

test('an event whose reminder is due soon reaches the phone in its description; what has none is listed with the reason', async () => {
  const at = installation.ctx.now();
  publish(
    event('soon', at + 70 * MINUTE, 'SUMMARY:North lock', 'DESCRIPTION:Ines 07700 900123'),
    event('later', at + 300 * MINUTE, 'SUMMARY:South lock', 'DESCRIPTION:Ines 07700 900123'),
    event('nobody', at + 300 * MINUTE, 'SUMMARY:Staff meeting'),
    event('past', at + 30 * MINUTE, 'SUMMARY:Too late +447700900123'),
    event('off', at + 300 * MINUTE, 'SUMMARY:Called off +447700900123', 'STATUS:CANCELLED'),
  );
  ({ id } = await addFeed(installation.ctx, SYSTEM, mossgate.appId, input()));
  await until('it was read', async () => (await view()).feed.syncedAt);
  const { feed, events, skipped } = await view();
  expect(feed).toMatchObject({ calendarName: 'Duty', problem: null });
  expect(JSON.stringify(feed)).not.toContain('secret-7731');
  expect(events.map(({ event }) => [event.title, event.state])).toEqual([
    ['North lock', 'planned'],
    ['South lock', 'planned'],
    ['Called off +447700900123', 'cancelled'],
  ]);
  expect(skipped.map(({ title, reason }) => [title, reason?.split('.')[0]]).sort()).toEqual([
    ['Staff meeting', 'There is no phone number in its title, attendees or description'],
    ['Too late +447700900123', 'The time of its reminders had passed when it was first seen'],
  ]);
  await inTime('the reminder is on the phone', async () =>
    (await texts()).some((text) => text.startsWith('North lock at ')),
  );
  await until('the mark is proven', async () => (await view()).proofs[0]?.state === 'proven');
  expect((await texts()).filter((text) => text.includes('lock at'))).toHaveLength(1);
});

test('read again unchanged: asked with its tag, and nothing is planned twice', async () => {
  await sync();
  expect(asked.at(-1)).toBeTruthy();
  expect(await installation.ctx.store.runs.count({ source_id: id, state: ['due', 'waiting'] })).toBe(1);
});

test('moved: the reminder moves; gone: it is cancelled; back: it is planned again', async () => {
  const at = installation.ctx.now();
  const moved = at + 400 * MINUTE;
  publish(event('later', moved, 'SUMMARY:South lock', 'DESCRIPTION:Ines 07700 900123'));
  await sync();
  const open = (await titled('South lock'))?.reminders.filter(({ state }) => state === 'waiting' || state === 'due');
  expect(open).toHaveLength(1);
  await until('it waits', async () =>
    (await titled('South lock'))?.reminders.some(({ dueAt }) => Math.abs(dueAt - (moved - 60 * MINUTE)) < 1000),
  );
  publish(event('other', at + 500 * MINUTE, 'SUMMARY:East lock +447700900123'));
  await sync();
  const gone = await titled('South lock');
  expect(gone).toMatchObject({ event: { state: 'cancelled', reason: 'It is no longer in the calendar.' } });
  expect(gone?.reminders.every(({ state }) => state === 'cancelled')).toBe(true);
  publish(event('later', moved, 'SUMMARY:South lock', 'DESCRIPTION:Ines 07700 900123'));
  await sync();
  expect((await titled('South lock'))?.event.state).toBe('planned');
});

test('an engine that is killed sends the reminder all the same, once', async () => {
  publish(event('crash', installation.ctx.now() + 70 * MINUTE, 'SUMMARY:Crash lock +447700900123'));
  await sync();
  installation.engine?.kill('SIGKILL');
  await installation.startEngine();
  await inTime('it is on the phone', async () => (await texts()).some((text) => text.startsWith('Crash lock')));
  await settle(installation);
  expect((await texts()).filter((text) => text.startsWith('Crash lock'))).toHaveLength(1);
});

test('yes marks the event and is told by mail; a later no replaces it; other words do neither', async () => {
  const { ctx, bench } = installation;
  await sendNotices(installation, 'maren@mossgate.example');
  await changeFeed(ctx, SYSTEM, id, input({ url: '', notify: 'keeper@mossgate.example, maren@mossgate.example' }));
  publish(
    event(
      'asked',
      installation.ctx.now() + 70 * MINUTE,
      'SUMMARY:Västra slussen',
      'ATTENDEE;CN=Tomas:tel:+46701740612',
    ),
  );
  await sync();
  await inTime('he is asked', async () => (await texts(TOMAS)).some((text) => text.startsWith('Västra slussen')));
  await until('it is done', async () =>
    (await titled('Västra slussen'))?.reminders.some(({ state }) => state === 'done'),
  );
  await bench.type(TOMAS, '+442079460114', 'Vilken tid var det?');
  await bench.type(TOMAS, '+442079460114', 'Ja tack, vi kommer!');
  await until('it is marked', async () => (await titled('Västra slussen'))?.event.answer === 'yes');
  const mails = () => bench.read<{ to: string; subject: string; text: string }[]>('/fennick/mails');
  const mail = await until('both are told', async () => {
    const told = (await mails()).filter(({ subject }) => subject?.startsWith('Yes: Västra slussen'));
    return told.length === 2 ? told[0] : undefined;
  });
  expect(mail.text).toContain('In their words: Ja tack, vi kommer!');
  await bench.type(TOMAS, '+442079460114', 'Nej, tyvärr inte');
  await until('it is marked anew', async () => (await titled('Västra slussen'))?.event.answer === 'no');
});

test('a feed that cannot be read says why, keeps what is planned, and comes right by itself', async () => {
  publish(event('kept', installation.ctx.now() + 500 * MINUTE, 'SUMMARY:Kept +447700900123'));
  await sync();
  status = 404;
  await sync();
  expect((await view()).feed.problem).toContain('answered 404');
  expect((await view()).proofs).toMatchObject([{ state: 'broken', cause: 'feed-not-read' }]);
  expect((await titled('Kept +447700900123'))?.event.state).toBe('planned');
  status = 200;
  body = '<html>Sign in</html>';
  await sync();
  expect((await view()).feed.problem).toContain('a web page');
  publish(event('kept', installation.ctx.now() + 500 * MINUTE, 'SUMMARY:Kept +447700900123'));
  await sync();
  expect((await view()).feed.problem).toBe(null);
});

test('switched off, nothing is sent any more; on again, it is planned anew', async () => {
  await switchFeed(installation.ctx, SYSTEM, id, false);
  await until('all are cancelled', async () => (await titled('Kept +447700900123'))?.event.state === 'cancelled');
  expect(await installation.ctx.store.runs.count({ source_id: id, state: ['due', 'waiting'] })).toBe(0);
  await switchFeed(installation.ctx, SYSTEM, id, true);
  await until('it is planned', async () => (await titled('Kept +447700900123'))?.event.state === 'planned');
});

test('who is known by an e-mail address alone is reminded by mail, answers by mail, and the notice of it leaves through the mailbox', async () => {
  const { ctx, bench } = installation;
  const mailbox = await connectMailbox(installation);
  const LINNEA = 'linnea.brook@heron.example';
  const at = ctx.now();
  const letter = event('letter', at + 200 * MINUTE, 'SUMMARY:East lock', `DESCRIPTION:Linnea <${LINNEA}>`);
  const both = event('both', at + 200 * MINUTE, 'SUMMARY:Old lock', `DESCRIPTION:${LINNEA}, 07700 900123`);
  publish(letter, both);
  await sync();
  expect((await view()).skipped.map(({ title }) => title)).toContain('East lock');

  await setMailAccount(ctx, SYSTEM, {
    ...{ through: mailbox.account_id, host: '', port: '', user: '', password: '', from: '' },
    trialTo: mailbox.address,
  });
  expect(await getMailAccount(ctx, SYSTEM)).toMatchObject({ through: mailbox.account_id, from: mailbox.address });
  expect(await mailboxesForNotices(ctx, SYSTEM)).toEqual([[mailbox.account_id, 'Mailbox']]);
  await expect(changeFeed(ctx, SYSTEM, id, input({ mailChannel: mossgate.channel.id }))).rejects.toMatchObject({
    findings: [{ field: 'mailChannel' }],
  });
  await changeFeed(ctx, SYSTEM, id, input({ mailChannel: mailbox.id, notify: mailbox.address }));
  await until('it is planned', async () => (await titled('East lock'))?.event.state === 'planned');
  // Where there is a telephone number, that is used alone.
  const open = (await titled('Old lock'))?.reminders.filter(({ state }) => state === 'waiting' || state === 'due');
  expect(open).toHaveLength(1);
  await bench.moveClock(150 * MINUTE);
  await inTime('the reminder is in the mailbox', async () =>
    (await texts(LINNEA)).some((text) => /^East lock\nEast lock at /.test(text)),
  );
  expect((await texts(LINNEA)).some((text) => text.includes('Old lock'))).toBe(false);
  await bench.type(LINNEA, mailbox.address, 'Yes, gladly!', 'mail');
  await until('it is marked', async () => (await titled('East lock'))?.event.answer === 'yes');
  const notice = () => bench.read<{ to: string; subject?: string }[]>('/fennick/mails');
  await until('the notice is there', async () =>
    (await notice()).some(({ subject }) => subject?.startsWith('Yes: East lock')),
  );
});
