/** E-mail both ways: threads, files, bounces and notifications, what programs write, and mails nobody planned for. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { addContact } from '../src/operations/contacts/contactPages';
import type { Actor } from '../src/operations/context/actor';
import { SYSTEM } from '../src/operations/context/actor';
import { inboundUrl } from '../src/operations/context/channelAddresses';
import { getThread, listConversations } from '../src/operations/conversations/conversations';
import { keepMedia, mediaToSend } from '../src/operations/conversations/mediaFiles';
import { replyWays } from '../src/operations/conversations/replyWays';
import { getTrail } from '../src/operations/log/trail';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { createTemplate, saveTemplate } from '../src/operations/templates/templates';
import type { ChannelRow, MessageRow } from '../src/store/schema/rows';
import { connectMailbox } from './harness/mail';
import { connectTrunk } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { all, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

const INES = 'linnea.brook@heron.example';
const WREN = 'wren.hollis@reed.example';
const PRIYA: Actor = { kind: 'user', id: 'usr_priya', name: 'Priya', role: 'agent' };

let house: Installation;
let channel: ChannelRow;
let send: Sender;

beforeAll(async () => {
  house = await startInstallation();
  channel = await connectMailbox(house);
  send = createSender(house.ctx);
  await publishRoutes(house.ctx, [route('everything', all(), [{ do: 'reply', text: 'Thank you, we read it today.' }])]);
});
afterAll(() => house.stop());

const messages = () => house.ctx.store.messages;
const arrived = (text: string) => until(`“${text}” is in`, () => messages().one({ text, direction: 'in' }));
const untilState = (id: string, state: MessageRow['state']) =>
  until(`it is ${state}`, () => messages().one({ id, state }));
const write = (letter: object) =>
  house.bench.post('/fennick/letters', { from: INES, name: 'Linnea Brook', to: channel.address, ...letter });
const fennickMails = () => house.bench.read<{ to: string; text: string; subject?: string }[]>('/fennick/mails');

async function postWhole(source: string): Promise<number> {
  const answer = await fetch(inboundUrl(house.ctx, channel), {
    method: 'POST',
    headers: { 'content-type': 'message/rfc822', 'fennick-word': 'heron-and-otter', 'fennick-to': channel.address },
    body: source.replaceAll('\n', '\r\n'),
  });
  await answer.arrayBuffer();
  return answer.status;
}

const mailOf = (id: string, head: string, body = 'Words.') =>
  `From: Somebody <somebody@reed.example>\nTo: ${channel.address}\nMessage-ID: <${id}@reed.example>\n${head}\n\n${body}\n`;

test('a conversation both ways: subject, thread, a file; all four marks, the receipt by a notification', async () => {
  const { ctx } = house;
  await write({
    subject: 'Lock passage',
    text: 'Can I pass on Sunday?',
    files: [{ name: 'boat.png', type: 'image/png', content: PICTURE.toString('base64') }],
  });
  const asked = await arrived('Can I pass on Sunday?');
  expect(asked).toMatchObject({ sender: INES, subject: 'Lock passage', automatic: null });
  expect(asked.files).toMatchObject([{ name: 'boat.png', type: 'image/png', bytes: PICTURE.length }]);
  const file = await fetch(asked.files?.[0]?.url ?? '');
  expect(Buffer.from(await file.arrayBuffer()).equals(PICTURE)).toBe(true);
  const thanked = await until('the route answered', () => messages().one({ in_reply_to: asked.id }));
  expect(thanked).toMatchObject({ recipient: INES, subject: 'Re: Lock passage' });
  await untilState(thanked.id, 'delivered');

  const { message } = await send(PRIYA, { text: 'Yes, at nine.', inReplyTo: asked.id });
  await untilState(message.id, 'delivered');
  const shown = await until('it is in the mailbox', async () =>
    (await house.bench.received(INES)).find(({ text }) => text.includes('Yes, at nine.')),
  );
  expect(shown.text).toMatch(/^Re: Lock passage\nYes, at nine\.$/);
  // She answers in her mail program: the thread is found by what the mail names.
  await house.bench.type(INES, channel.address, 'Good, see you then.', 'mail');
  const back = await arrived('Good, see you then.');
  expect(back).toMatchObject({ in_reply_to: message.id, conversation_id: asked.conversation_id });
  // The trail of what came in shows what was answered to it, though it answers something itself.
  const { message: last } = await send(PRIYA, { text: 'See you.', inReplyTo: back.id });
  const { legs } = await getTrail(ctx, SYSTEM, back.id);
  // The route thanks her again, before that or after it.
  expect(legs[0]?.message.id).toBe(back.id);
  expect(legs.map((leg) => leg.message.id)).toContain(last.id);
  const marks = await ctx.store.proofs.all({ subject_id: channel.id });
  expect(Object.fromEntries(marks.map(({ hop, state }) => [hop, state]))).toMatchObject({
    credential: 'proven',
    outbound: 'proven',
    receipt: 'proven',
    inbound: 'proven',
  });
  expect(await replyWays(ctx, SYSTEM, { contactId: asked.contact_id })).toMatchObject({
    channelId: channel.id,
    reply: { to: INES },
  });
});

test('a kept file goes along; one that is not kept here is refused, and not left out', async () => {
  const { ctx } = house;
  const { id } = await keepMedia(ctx, PRIYA, { name: 'plan.png', content: PICTURE });
  const media = await mediaToSend(ctx, PRIYA, id);
  const { message } = await send(PRIYA, { to: INES, from: channel.id, text: 'The plan', media });
  await untilState(message.id, 'delivered');
  const shown = await until('it is in the mailbox', async () =>
    (await house.bench.received(INES)).find(({ text }) => text.includes('The plan')),
  );
  expect(shown.text).toContain('[plan.png]');
  const elsewhere = { url: 'https://files.example/plan.png', type: 'image/png' };
  await expect(
    send(PRIYA, { to: INES, from: channel.id, text: 'Another plan', media: elsewhere }),
  ).rejects.toMatchObject({ findings: [{ field: 'media.url' }] });
});

test('an address nobody has and a full mailbox come back with the reason', async () => {
  const { ctx } = house;
  const { id } = await addContact(ctx, SYSTEM, { name: 'Nobody', address: 'nobody@reed.example' });
  const lost = await send(PRIYA, { to: 'nobody@reed.example', from: channel.id, text: 'Are you there?' });
  expect(await untilState(lost.message.id, 'failed')).toMatchObject({ cause: 'mail-address-unknown', contact_id: id });
  await house.bench.setHandset(WREN, { power: 'off' });
  const full = await send(PRIYA, { to: WREN, from: channel.id, text: 'Your mooring' });
  expect(await untilState(full.message.id, 'failed')).toMatchObject({ cause: 'mailbox-full', subject: 'Post desk' });
  await house.bench.setHandset(WREN, { power: 'on' });
  // A bounce is no message of a person, and opens no conversation.
  expect(await listConversations(ctx, SYSTEM, 'postmaster')).toEqual([]);
});

test('who is away answers by machine: it is shown, answered by nobody, and nobody’s work', async () => {
  const { ctx } = house;
  await house.bench.setHandset(WREN, { away: 'I am away until Monday.' });
  const { message } = await send(PRIYA, { to: WREN, from: channel.id, text: 'Is the berth free?' });
  const away = await arrived('I am away until Monday.');
  expect(away.automatic).toMatch(/Auto-Submitted: auto-replied/);
  expect(away.in_reply_to).toBe(message.id);
  expect(await ctx.store.messageRoutings.one({ message_id: away.id })).toMatchObject({ outcome: 'automatic' });
  const thread = await getThread(ctx, SYSTEM, away.conversation_id);
  expect(thread.conversation).toMatchObject({ unread: 0, state: 'waiting' });
  expect(await messages().count({ in_reply_to: away.id })).toBe(0);
  // What we send by machine says so, and a mailbox that is away leaves it alone.
  const app: Actor = { kind: 'app', id: 'app_1', name: 'Lockbook', keyId: '', scopes: ['messages:send'] };
  const told = await send(app, { to: WREN, from: channel.id, subject: 'Stoppage', text: 'The lock is closed.' });
  await untilState(told.message.id, 'delivered');
  expect(await messages().count({ text: 'I am away until Monday.' })).toBe(1);
  expect((await fennickMails()).filter(({ text }) => text === 'I am away until Monday.')).toHaveLength(1);
});

test('STOP by mail is confirmed under its subject, and nothing more is sent there', async () => {
  const from = 'edda@reed.example';
  await house.bench.post('/fennick/letters', {
    from,
    name: 'Edda',
    to: channel.address,
    subject: 'No more',
    text: 'STOP',
  });
  const stop = await until('it is in', () => messages().one({ text: 'STOP', sender: from }));
  const confirmed = await until('it is confirmed', () => messages().one({ in_reply_to: stop.id }));
  expect(confirmed).toMatchObject({ subject: 'Re: No more', origin_kind: 'consent' });
  await expect(send(PRIYA, { to: from, from: channel.id, text: 'One more' })).rejects.toThrow();
});

describe('mails nobody planned for', () => {
  test('HTML becomes words: nothing of it runs, and no picture is fetched', async () => {
    const html =
      '<p>Dear <b>desk</b>,</p><script>alert(1)</script><img src="http://127.0.0.1:1/spy.png"><p>See <a href="javascript:x">this</a></p>';
    expect(await postWhole(mailOf('h1', 'Subject: Hello\nMIME-Version: 1.0\nContent-Type: text/html', html))).toBe(202);
    const message = await until('it is in', () => messages().one({ subject: 'Hello' }));
    expect(message.text).toContain('Dear desk,');
    expect(message.text).not.toMatch(/<|alert|spy/);
  });

  test('a program among the files is named and not kept; a file’s type is what it holds', async () => {
    await write({
      subject: 'Files',
      text: 'Two files.',
      files: [
        { name: 'invoice.pdf.exe', type: 'application/pdf', content: Buffer.from('MZ').toString('base64') },
        { name: '../../etc/photo.jpg', type: 'text/html', content: PICTURE.toString('base64') },
      ],
    });
    const { files } = await arrived('Two files.');
    expect(files).toMatchObject([
      { name: 'invoice.pdf.exe', refused: 'It is a program, and was not kept.' },
      { name: expect.not.stringContaining('/'), type: 'image/png' },
    ]);
    expect(files?.[0]?.url).toBeUndefined();
  });

  test('no sender, no id, no mail at all: 422, kept, and the neighbours go on', async () => {
    expect(await postWhole('Subject: x\n\nhello\n')).toBe(422);
    expect(await postWhole(mailOf('', '').replace(/Message-ID.*\n/, ''))).toBe(422);
    expect(await postWhole('')).toBe(422);
    expect(await postWhole(mailOf('fine', 'Subject: Fine', 'All is well.'))).toBe(202);
    await arrived('All is well.');
    expect(await postWhole(mailOf('fine', 'Subject: Fine', 'All is well.'))).toBe(202);
    expect(await messages().count({ text: 'All is well.' })).toBe(1);
  });

  test('who forges a bounce of a mail that is not ours, or answers somebody else’s, changes nothing of it', async () => {
    const { message } = await send(PRIYA, { to: INES, from: channel.id, text: 'Between us.' });
    await untilState(message.id, 'delivered');
    const id = (await messages().one({ id: message.id }))?.provider_message_id;
    expect(await postWhole(mailOf('forged', `In-Reply-To: <${id}>`, 'I am Ines.'))).toBe(202);
    const forged = await arrived('I am Ines.');
    expect(forged).toMatchObject({ sender: 'somebody@reed.example' });
    expect(forged.contact_id).not.toBe((await messages().one({ id: message.id }))?.contact_id);
  });

  test('a mail over 10 MB is refused with 413, one of 5 MB is taken', async () => {
    const body = `${'Long words. '.repeat(6)}\n`;
    const long = (octets: number) => body.repeat(Math.ceil(octets / body.length));
    expect(await postWhole(mailOf('large', 'Subject: Large', long(11 * 1024 * 1024)))).toBe(413);
    expect(await postWhole(mailOf('long', 'Subject: Long one', long(5 * 1024 * 1024)))).toBe(202);
    const taken = await until('it is in', () => messages().one({ subject: 'Long one' }));
    expect(taken.text.length).toBe(20_000);
  });
});

test('a template with a subject is a mail of two forms, and without one where it is a text', async () => {
  const { ctx } = house;
  const { id } = await createTemplate(ctx, SYSTEM, { kind: 'plain', name: 'Passage', language: 'en' });
  const variant = {
    language: 'en',
    header: { kind: 'text', text: 'Passage of {{ boat }}' },
    body: 'Dear {{ name }},\n\nsee https://mossgate.example/locks & come.',
    buttons: [],
    samples: {},
  };
  const seen = (await ctx.store.templates.one({ id }))?.changed_at ?? 0;
  await saveTemplate(ctx, SYSTEM, id, { name: 'Passage', category: 'transactional', variants: [variant] }, seen);
  const app: Actor = { kind: 'app', id: 'app_1', name: 'Lockbook', keyId: '', scopes: ['messages:send'] };
  const order = (values: Record<string, string>) =>
    send(app, { to: INES, from: channel.id, text: '', template: { id, values } });
  await expect(order({ name: 'Linnea' })).rejects.toMatchObject({ findings: [{ field: 'template.values.boat' }] });
  const { message } = await order({ name: 'Linnea', boat: '<Heron>' });
  expect(await untilState(message.id, 'delivered')).toMatchObject({
    subject: 'Passage of <Heron>',
    text: 'Dear Linnea,\n\nsee https://mossgate.example/locks & come.',
  });
  const shown = await until('it is in the mailbox', async () =>
    (await house.bench.received(INES)).find(({ text }) => text.startsWith('Passage of <Heron>')),
  );
  expect(shown.text).toContain('see https://mossgate.example/locks & come.');
  // In an answer the thread keeps its subject.
  const asked = await messages().one({ text: 'Can I pass on Sunday?', direction: 'in' });
  const answer = await send(PRIYA, {
    text: '',
    template: { id, values: { name: 'L', boat: 'b' } },
    inReplyTo: asked?.id,
  });
  expect((await messages().one({ id: answer.message.id }))?.subject).toBe('Re: Lock passage');

  const trunk = await connectTrunk(house);
  const text = await send(app, {
    ...{ to: '+447700900123', from: trunk.channel.id, text: '' },
    template: { id, values: { name: 'Ines' } },
  });
  expect(text.message.text).toBe('Dear Ines,\n\nsee https://mossgate.example/locks & come.');
});

/** A picture of one dot. */
const PICTURE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==',
  'base64',
);
