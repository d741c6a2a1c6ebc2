/** Opting out over the wire: at once, confirmed once, and no path leads to the person any more. */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { findingsOf } from '../src/operations/accounts/connectionFindings';
import { addFeed } from '../src/operations/apps/feeds/feeds';
import { changeHook, createHook } from '../src/operations/apps/hooks/hooks';
import { addPhoneSystem } from '../src/operations/apps/phone/phoneSystems';
import { changeSheet, watchSheet } from '../src/operations/apps/sheets/sheets';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { SYSTEM } from '../src/operations/context/actor';
import { getThread, listConversations } from '../src/operations/conversations/conversations';
import { replyState } from '../src/operations/conversations/replyOptions';
import { saveOrganisation } from '../src/operations/organisation/organisation';
import { settleUncertain } from '../src/operations/outbound/answers';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { createTemplate, saveTemplate } from '../src/operations/templates/templates';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { connectTarrow } from './harness/tarrow';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let send: Sender;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  send = createSender(house.ctx);
});
afterAll(() => house.stop());

const texts = async (number: string) => (await house.bench.received(number)).map(({ text }) => text);
const says = (number: string, text: string) => house.bench.type(number, mossgate.channel.address, text);
const contactOf = async (value: string) =>
  (await house.ctx.store.identities.one({ kind: 'phone', value }))?.contact_id ?? '';
const standing = async (value: string) =>
  (await house.ctx.store.contactConsents.one({ contact_id: await contactOf(value), way: 'text' }))?.state;
const refused = { findings: [{ finding: { code: 'opted-out' } }] };

test('a word is honoured at once, confirmed once in the person’s language, and shown with its evidence', async () => {
  const { ctx } = house;
  await says(TOMAS, ' Stopp! ');
  await until('it stands', async () => (await standing(TOMAS)) === 'withdrawn');
  await until('it is confirmed', async () => (await texts(TOMAS)).some((text) => text.startsWith('Du får inga fler')));
  await says(TOMAS, 'STOP');
  await says(TOMAS, 'stop please');
  await until('all came in', async () => (await ctx.store.messages.count({ sender: TOMAS })) === 3);
  await settle(house);
  expect(await texts(TOMAS)).toHaveLength(1);

  const entries = await ctx.store.consentEntries.all({ contact_id: await contactOf(TOMAS) });
  expect(entries.map(({ what, how, wording, by }) => [what, how, wording, by])).toEqual([
    ['withdrawn', 'word', ' Stopp! ', TOMAS],
    ['withdrawn', 'word', 'STOP', TOMAS],
  ]);
  const [conversation] = await listConversations(ctx, SYSTEM, TOMAS);
  const thread = await getThread(ctx, SYSTEM, conversation?.id ?? '');
  const { consents, messages } = thread;
  expect(consents[messages[0]?.id ?? '']).toBe('withdrawn');
  expect((await replyState(ctx, SYSTEM, thread.conversation)).refused?.problem).toMatch(/declined/);
});

test('a word to come back opens it again, once, and means nothing from somebody who never left', async () => {
  await says(TOMAS, 'START');
  await until('it stands', async () => (await standing(TOMAS)) === 'given');
  await until('it is confirmed', async () =>
    (await texts(TOMAS)).some((text) => text.startsWith('Du får meddelanden')),
  );
  await send(SYSTEM, { to: TOMAS, from: mossgate.channel.id, text: 'Välkommen tillbaka' });
  await until('it arrives', async () => (await texts(TOMAS)).includes('Välkommen tillbaka'));
  await says(INES, 'start');
  await until('it came in', async () => (await house.ctx.store.messages.count({ sender: INES })) === 1);
  expect(await standing(INES)).toBeUndefined();
});

describe('every path there is', () => {
  const before: string[] = [];

  test('what waits already is withdrawn, not sent', async () => {
    const { ctx } = house;
    // A provider that throttles keeps texts waiting here.
    await house.bench.account((house.world.accounts[0] as { id: string }).id, { perSecond: 0 });
    const { message } = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Waiting since before' });
    await until('it was tried', async () => (await ctx.store.outbox.one({ message_id: message.id }))?.failures);
    await says(INES, 'STOP');
    await until('it stands', async () => (await standing(INES)) === 'withdrawn');
    await house.bench.account((house.world.accounts[0] as { id: string }).id, { perSecond: 100 });
    await until(
      'it is withdrawn',
      async () => (await ctx.store.messages.one({ id: message.id }))?.cause === 'opted-out',
    );
    await until('it is confirmed', async () =>
      (await texts(INES)).some((text) => text.startsWith('You will get no more')),
    );
    before.push(...(await texts(INES)));
    expect(before).not.toContain('Waiting since before');
  });

  test('a person at the desk, a plain template, an uncertain one sent again', async () => {
    const { ctx } = house;
    const desk = { kind: 'user', id: 'usr_1', name: 'Jonas', role: 'agent' } as const;
    await expect(send(desk, { to: INES, from: mossgate.channel.id, text: 'From the desk' })).rejects.toMatchObject(
      refused,
    );
    const last = await ctx.store.messages.one({ sender: INES });
    await expect(send(desk, { inReplyTo: last?.id, text: 'A reply' })).rejects.toMatchObject(refused);
    const { id } = await createTemplate(ctx, SYSTEM, { kind: 'plain', name: 'Notice', language: 'en' });
    const row = await ctx.store.templates.one({ id });
    await saveTemplate(
      ctx,
      SYSTEM,
      id,
      {
        name: 'Notice',
        category: 'transactional',
        variants: [{ language: 'en', body: 'A notice', buttons: [], samples: {} }],
      },
      row?.changed_at ?? 0,
    );
    await expect(
      send(desk, { to: INES, from: mossgate.channel.id, text: '', template: { id, values: {} } }),
    ).rejects.toMatchObject(refused);

    const sent = (await ctx.store.messages.all({ recipient: TOMAS, direction: 'out' }))[0];
    if (!sent) throw new Error('nothing was sent before');
    await ctx.store.write(async (unit) => {
      await unit.messages.insert([
        {
          ...sent,
          id: 'msg_uncertain',
          contact_id: await contactOf(INES),
          recipient: INES,
          provider_message_id: null,
          text: 'Replay',
          origin_kind: 'user',
          state: 'uncertain',
          state_rank: 3,
        },
      ]);
      await unit.outbox.insert([
        {
          message_id: 'msg_uncertain',
          channel_id: sent.channel_id,
          priority: 10,
          state: 'uncertain',
          due_at: 0,
          attempts: 1,
          first_attempt_at: 0,
          lease_owner: null,
          leased_at: null,
          failures: 0,
          tried_with: null,
        },
      ]);
    });
    await settleUncertain(ctx, SYSTEM, 'msg_uncertain', 'send-again');
    await until('it is withdrawn', async () => !(await ctx.store.outbox.one({ message_id: 'msg_uncertain' })));
  });

  test('the API, with and without an idempotency key', async () => {
    for (const key of [{}, { 'idempotency-key': 'k1' }, { 'idempotency-key': 'k1' }] as Record<string, string>[]) {
      const answer = await fetch(`${house.origin}/api/v1/messages`, {
        method: 'POST',
        headers: { authorization: `Bearer ${mossgate.apiKey}`, 'content-type': 'application/json', ...key },
        body: JSON.stringify({ to: INES, from: mossgate.channel.id, text: 'From an app' }),
      });
      expect(answer.status).toBe(422);
      expect(JSON.stringify(await answer.json())).toContain('opted-out');
    }
  });

  test('a send hook, a sheet, a calendar, a missed call', async () => {
    const { ctx } = house;
    const sender = { by: 'channel' as const, channel: mossgate.channel.id };
    const hook = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: 'Booked' });
    await changeHook(ctx, SYSTEM, hook.id, {
      name: 'Booked',
      text: 'From a hook',
      phoneField: 'phone',
      country: 'GB',
      sender,
    });
    await fetch(hook.url, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ phone: INES }),
    });

    writeFileSync(join(ctx.config.sheetsFolder, 'out.csv'), `Phone\n${INES}\n`);
    const { id } = await watchSheet(ctx, SYSTEM, mossgate.appId, { name: 'out.csv', source: 'out.csv', begin: 'all' });
    await until('the sheet was read', async () => (await ctx.store.sheets.one({ id }))?.scanned_at);
    await changeSheet(ctx, SYSTEM, id, { name: '', text: 'From a sheet', phoneField: 'Phone', sender });

    const stamp = (at: number) => new Date(at).toISOString().replace(/[-:]|\.\d+/g, '');
    const event = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//M//EN',
      'BEGIN:VEVENT',
      'UID:1',
      'DTSTAMP:20260101T000000Z',
      `DTSTART:${stamp(Date.now() + 62_000)}`,
      `SUMMARY:Lock for ${INES}`,
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n');
    const calendar = createServer((_, answer) => answer.end(event)).listen(0, '127.0.0.1');
    await new Promise((resolve) => calendar.once('listening', resolve));
    await addFeed(ctx, SYSTEM, mossgate.appId, {
      name: 'Duty',
      url: `http://127.0.0.1:${(calendar.address() as AddressInfo).port}/a.ics`,
      periodMinutes: 15,
      zone: 'Europe/London',
      country: 'GB',
      dayTime: '09:00',
      offsets: [1],
      text: 'From a calendar',
      sender,
      notify: '',
    });

    const phone = await addPhoneSystem(ctx, SYSTEM, mossgate.appId, {
      name: 'Office',
      events: ['missed'],
      answer: 'From a call',
      alert: '',
      alertPhones: '',
      alertMails: '',
      country: 'GB',
      channel: mossgate.channel.id,
      onceHours: 6,
    });
    await fetch(phone.url, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ event: 'missed', caller: INES, called: '+442079460114', call: 'c1' }),
    });

    for (const source of ['hook', 'sheet-row', 'feed', 'phone'] as const) {
      const run = await until(`the run of a ${source} has ended`, async () =>
        (await ctx.store.runs.all({ source })).find(({ ended_at }) => ended_at !== null),
      );
      expect(JSON.stringify(run.results), source).toContain('declined');
    }
    calendar.close();
  });

  test('nothing of it reached the handset', async () => {
    await settle(house);
    expect(await texts(INES)).toEqual(before);
  });

  test('there is no other: every text is queued at one place and handed over at one', () => {
    const files = readdirSync('src', { recursive: true, encoding: 'utf8' }).filter(
      (name) => /\.tsx?$/.test(name) && !name.includes('.test.'),
    );
    const naming = (pattern: RegExp) =>
      files.filter((name) => pattern.test(readFileSync(join('src', name), 'utf8'))).sort();
    expect(naming(/outbox\.(insert|put)\(|INTO outbox/)).toEqual(['operations/outbound/sendMessage.ts']);
    expect(naming(/connector\.send\(|link\.submit\(/)).toEqual(['operations/outbound/handOver.ts']);
    expect(naming(/consent: true/)).toEqual(['operations/outbound/sendMessage.ts']);
  });
});

test('declining texts leaves chat open, and the other way round', async () => {
  const { channel, businessId } = await connectTarrow(house);
  await house.bench.change(`tarrow/businesses/${businessId}`, { stage: 'live', billing: 'set' });
  await house.bench.type(INES, channel.address, 'Is the lock open?', 'chat');
  await until('it came in', async () => house.ctx.store.messages.one({ channel_id: channel.id }));
  await send(SYSTEM, { to: INES, from: channel.id, text: 'It is.' });
  await until('it arrives', async () => (await texts(INES)).includes('It is.'));
  await house.bench.type(INES, channel.address, 'stop', 'chat');
  await until('it stands', async () => house.ctx.store.contactConsents.one({ way: 'chat', state: 'withdrawn' }));
  await expect(send(SYSTEM, { to: INES, from: channel.id, text: 'More' })).rejects.toMatchObject(refused);
});

test('what somebody enters by hand needs its evidence, and nothing in the ledger is ever changed', async () => {
  const { ctx } = house;
  const contactId = await contactOf(INES);
  await expect(enterConsent(ctx, SYSTEM, { contactId, way: 'text', what: 'given', wording: ' ' })).rejects.toThrow(
    /evidence is missing/,
  );
  const before = await ctx.store.consentEntries.all({ contact_id: contactId });
  await enterConsent(ctx, SYSTEM, { contactId, way: 'text', what: 'given', wording: 'On the mooring form of 3 May' });
  const after = await ctx.store.consentEntries.all({ contact_id: contactId }, { order: [['id', 'ASC']] });
  expect(after.slice(0, before.length)).toEqual(before);
  expect(after.at(-1)).toMatchObject({ how: 'by-hand', by: 'Windgap', wording: 'On the mooring form of 3 May' });
  await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Welcome back' });
  await until('it arrives', async () => (await texts(INES)).includes('Welcome back'));
});

describe('a provider that keeps opt-outs to itself', () => {
  test('is found out by its refusal: both ledgers say the same afterwards, and the channel says whose it was', async () => {
    const { ctx, bench } = house;
    const who = '+447700900188';
    await bench.addHandset(who, 'Wren');
    await bench.faults({ brackwater: { keepsStops: true } });
    await says(who, 'STOP');
    const { message } = await send(SYSTEM, { to: who, from: mossgate.channel.id, text: 'The lock is shut' });
    const failed = await until('it is refused', () => ctx.store.messages.one({ id: message.id, state: 'failed' }));
    expect(failed.cause).toBe('opted-out');
    expect(await standing(who)).toBe('withdrawn');
    const [entry] = await ctx.store.consentEntries.all({ contact_id: await contactOf(who) });
    expect(entry).toMatchObject({ how: 'provider', by: 'Main account', wording: expect.stringContaining('STOP') });
    // Not asked again: it is refused here before anything is handed over.
    await expect(send(SYSTEM, { to: who, from: mossgate.channel.id, text: 'Again' })).rejects.toMatchObject(refused);
    const account = await ctx.store.accounts.all({ id: mossgate.accountId });
    const found = (await findingsOf(ctx, account)).find(({ code }) => code === 'opt-outs-kept-by-provider');
    expect(found).toMatchObject({ subject: mossgate.channel.id, problem: expect.stringContaining('one person') });
    await bench.faults({ brackwater: { keepsStops: false } });
  });
});

describe('a provider that keeps opt-outs and tells of them', () => {
  test('is believed at once, both ways, also about people nobody here knows; nothing is found fault with', async () => {
    const { ctx, bench } = house;
    const who = '+447700900187';
    await bench.addHandset(who, 'Rowan');
    await bench.faults({ brackwater: { tellsStops: true, postsTwice: true } });
    await says(who, 'STOP');
    await until('we know', async () => (await standing(who)) === 'withdrawn');
    await expect(send(SYSTEM, { to: who, from: mossgate.channel.id, text: 'Hello' })).rejects.toMatchObject(refused);
    await says(who, 'START');
    await until('we know that, too', async () => (await standing(who)) === 'given');
    const entries = await ctx.store.consentEntries.all({ contact_id: await contactOf(who) });
    expect(entries.map(({ what, how, wording }) => [what, how, wording])).toEqual([
      ['withdrawn', 'provider', 'stop'],
      ['given', 'provider', 'start'],
    ]);
    // From somebody who never left it means nothing.
    const other = '+447700900186';
    await bench.addHandset(other, 'Alder');
    await says(other, 'START');
    await settle(house);
    expect(await standing(other)).toBeUndefined();
    await bench.faults({ brackwater: { tellsStops: false, postsTwice: false } });
    await send(SYSTEM, { to: who, from: mossgate.channel.id, text: 'Welcome back' });
    await until('it arrives', async () => (await texts(who)).includes('Welcome back'));
  });
});

describe('the word for help', () => {
  test('is a message like any other until the organisation has said who it is', async () => {
    const who = '+447700900189';
    await house.bench.addHandset(who, 'Ash');
    await says(who, 'HELP');
    await until('it is in', () => house.ctx.store.messages.one({ sender: who, text: 'HELP' }));
    await settle(house);
    expect(await texts(who)).toEqual([]);
  });

  test('is answered with who it is, where help is had and how to leave, also to whoever declined, and never without end', async () => {
    const who = '+447700900190';
    await house.bench.addHandset(who, 'Moss');
    const organisation = { zone: 'Europe/London', countries: ['Sweden'], language: 'en' };
    await saveOrganisation(house.ctx, SYSTEM, { ...organisation, help: 'Mossgate Waterways, help@mossgate.example' });
    await says(who, 'stop');
    await until('it is confirmed', async () => (await texts(who)).length === 1);
    await says(who, 'Help?');
    await until('it is answered', async () =>
      (await texts(who)).includes('Mossgate Waterways, help@mossgate.example. Reply STOP to get no more messages.'),
    );
    // Within ten minutes no more than so often, whoever asks.
    for (const word of ['info', 'HELP', 'Info']) {
      await says(who, word);
      await until('it is in', () => house.ctx.store.messages.one({ sender: who, text: word }));
      await settle(house);
    }
    expect((await texts(who)).filter((text) => text.includes('help@')).length).toBe(2);
    await saveOrganisation(house.ctx, SYSTEM, { ...organisation, help: '' });
  });
});
