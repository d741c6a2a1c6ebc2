/** A chat platform whose people have no telephone number, connected by a profile alone; and one person reached over four ways in one conversation. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { WEB_CHAT_START } from '../src/core/connect/webChat';
import { identityKey } from '../src/core/identities/identityKinds';
import { connectProvider } from '../src/operations/accounts/accounts';
import { handOverForMe, openChannel } from '../src/operations/channels/channels';
import { openWebChat } from '../src/operations/channels/webChat';
import { agreedOver, holdsOver } from '../src/operations/contacts/consent/consentCoverage';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { mergeContacts } from '../src/operations/contacts/contactMerge';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { getThread } from '../src/operations/conversations/conversations';
import { replyWays } from '../src/operations/conversations/replyWays';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMailbox } from './harness/mail';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, begins, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

const WEBSITE = 'https://mossgate.example';
const PRIYA: Actor = { kind: 'user', id: 'usr_priya', name: 'Priya', role: 'agent' };

let house: Installation;
let mossgate: Mossgate;
let send: Sender;
const desks: ChannelRow[] = [];

beforeAll(async () => {
  house = await startInstallation();
  const { ctx, world } = house;
  mossgate = await connectMossgate(house);
  send = createSender(ctx);
  for (const { title, key, signSecret } of world.corvane) {
    const { id } = await connectProvider(ctx, SYSTEM, {
      connector: 'corvane',
      name: title,
      credentials: { apiAddress: `http://127.0.0.1:${world.ports.corvane}/v3`, key, signingSecret: signSecret },
    });
    const number = await ctx.store.numbers.one({ account_id: id });
    const opened = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: title });
    await handOverForMe(ctx, SYSTEM, opened.id);
    desks.push((await ctx.store.channels.one({ id: opened.id })) as ChannelRow);
  }
  const pressed = (label: string) => all({ on: 'button', labels: [label] });
  await publishRoutes(ctx, [
    route('south', pressed('South lock'), [{ do: 'reply', text: 'South it is.' }]),
    route('north', pressed('North lock'), [{ do: 'reply', text: 'North it is.' }]),
    route('berth', all(begins('berth')), [
      { do: 'ask', text: 'For which night?', keep: 'night', answers: [], otherwise: [], minutes: 60, late: [] },
    ]),
  ]);
});
afterAll(() => house.stop());

const messages = () => house.ctx.store.messages;
const arrived = (text: string) => until(`“${text}” is in`, () => messages().one({ text, direction: 'in' }));
const talk = (to: ChannelRow | undefined, text: string) => house.bench.type(INES, to?.address ?? '', text, 'talk');

test('from nothing to four marks: they write, are answered with their id, and the platform says that it came', async () => {
  const { ctx } = house;
  const [desk] = desks;
  await talk(desk, 'Hello from a boat');
  const asked = await arrived('Hello from a boat');
  expect(asked.sender).toMatch(/^cp_[0-9a-f]{20}$/);
  expect(await ctx.store.contacts.one({ id: asked.contact_id })).toMatchObject({ name: 'Ines Calder', country: null });
  const { message } = await send(PRIYA, { text: 'Hello back', inReplyTo: asked.id });
  await until('it reached her', () => messages().one({ id: message.id, state: 'delivered' }));
  const marks = await ctx.store.proofs.all({ subject_id: desk?.id ?? '' });
  expect(new Set(marks.map(({ state }) => state))).toEqual(new Set(['proven']));
  // A sign put to a message is no message: it shows that it was read, and may be taken away again.
  const sign = async () => (await getThread(ctx, SYSTEM, asked.conversation_id)).reactions[message.id];
  await talk(desk, '👍');
  await until('it is shown', async () => (await sign()) === '👍');
  expect(await messages().one({ id: message.id })).toMatchObject({ state: 'read' });
  await talk(desk, '-');
  await until('it is gone', async () => (await sign()) === undefined);
  await talk(desk, 'And thanks');
  await arrived('And thanks');
  expect(await messages().count({ contact_id: asked.contact_id, direction: 'in' })).toBe(2);
});

test('answers to press are buttons here, in words where there are none, and a press belongs to its message', async () => {
  const [desk] = desks;
  const asked = await arrived('And thanks');
  const order = { text: 'Which lock?', choices: ['North lock', 'South lock'] };
  const { message } = await send(PRIYA, { ...order, inReplyTo: asked.id });
  await until('it reached her', () => messages().one({ id: message.id, state: 'delivered' }));
  expect((await house.bench.received(INES)).at(-1)?.text).toBe('Which lock?\n[North lock] [South lock]');
  expect(message).toMatchObject({ text: 'Which lock?', choices: ['North lock', 'South lock'] });
  await talk(desk, 'South lock');
  const pressed = await arrived('South lock');
  expect(pressed.in_reply_to).toBe(message.id);
  const thanks = await until('the route answered', () => messages().one({ in_reply_to: pressed.id }));
  expect(thanks.text).toBe('South it is.');

  // Longer than a button takes, or more than it shows: in words, and so too over a channel without buttons.
  const long = await send(PRIYA, { ...order, choices: ['x'.repeat(25), 'No'], inReplyTo: asked.id });
  expect(long.message.text).toBe(`Which lock?\n${'x'.repeat(25)} / No`);
  const text = await send(PRIYA, { ...order, to: INES, from: mossgate.channel.id });
  expect(text.message.text).toBe('Which lock?\nNorth lock / South lock');
  await house.bench.type(INES, mossgate.channel.address, 'North lock');
  const typed = await arrived('North lock');
  expect((await until('it answered', () => messages().one({ in_reply_to: typed.id }))).text).toBe('North it is.');
});

test('the same person is somebody else at another account, and nobody is written to first', async () => {
  const [one, other] = desks;
  await talk(other, 'Harbours, please');
  const asked = await arrived('Harbours, please');
  const here = await arrived('Hello from a boat');
  expect(asked.sender).not.toBe(here.sender);
  expect(asked.contact_id).not.toBe(here.contact_id);
  // Her id of the one desk is nobody at the other: said before anything is sent.
  await expect(send(PRIYA, { to: here.sender, from: other?.id, text: 'Hello' })).rejects.toThrow();
  await expect(send(PRIYA, { to: 'cp_0123456789abcdef0123', from: one?.id, text: 'Hello' })).rejects.toThrow();
  expect((await house.bench.read<{ text: string }[]>('/corvane/messages')).length).toBeGreaterThan(0);
});

test('an answer belongs to the message it names, not to what went out last', async () => {
  const { ctx } = house;
  const [desk] = desks;
  await talk(desk, 'Berth for two nights');
  const asked = await arrived('Berth for two nights');
  const question = await until('the route asked', () => messages().one({ in_reply_to: asked.id }));
  const { message } = await send(PRIYA, { text: 'The lock opens at nine.', inReplyTo: asked.id });
  await until('it reached her', () => messages().one({ id: message.id, state: 'delivered' }));
  await talk(desk, '>> Good to know');
  const quoted = await arrived('Good to know');
  expect(quoted.in_reply_to).toBe(message.id);
  expect(await ctx.store.messageRoutings.one({ message_id: quoted.id })).not.toMatchObject({ outcome: 'answer' });
  await talk(desk, 'Friday');
  const answer = await arrived('Friday');
  expect(await ctx.store.messageRoutings.one({ message_id: answer.id })).toMatchObject({ outcome: 'answer' });
  expect(question.text).toBe('For which night?');
});

test('one person over four ways: one conversation, and each answer over the one that is chosen', async () => {
  const { ctx, bench } = house;
  const [desk] = desks;
  const post = await connectMailbox(house);
  await bench.type('linnea.brook@heron.example', post.address, 'By mail', 'mail');
  await bench.type(INES, mossgate.channel.address, 'By text');
  const { id: chat } = await openWebChat(ctx, SYSTEM, {
    name: 'Website',
    settings: { ...WEB_CHAT_START, origins: [WEBSITE], answers: 'live' },
  });
  const token = (await ctx.store.channels.one({ id: chat }))?.inbound_token;
  const web = async (part: string, body: object) =>
    (await (
      await fetch(`${house.origin}/chat/${token}/${part}`, {
        method: 'POST',
        headers: { origin: WEBSITE, 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
    ).json()) as { key: string };
  const { key } = await web('begin', { consent: true });
  await web('say', { key, id: 'said-by-web', text: 'By the website' });
  const kept = (await arrived('Hello from a boat')).contact_id;
  for (const text of ['By mail', 'By text', 'By the website']) {
    const { contact_id: goneId } = await arrived(text);
    await mergeContacts(ctx, SYSTEM, { keptId: kept, goneId, why: 'the same person' });
  }
  const ways = await replyWays(ctx, SYSTEM, { contactId: kept });
  const open = ways.ways.filter(({ refused }) => refused === undefined).map(({ channelId }) => channelId);
  expect(open).toEqual(expect.arrayContaining([desk?.id, post.id, mossgate.channel.id, chat]));
  for (const channelId of [desk?.id ?? '', post.id, mossgate.channel.id, chat]) {
    const { reply } = await replyWays(ctx, SYSTEM, { contactId: kept }, channelId);
    const { message } = await send(PRIYA, { to: reply?.to, from: channelId, text: `Over ${channelId}` });
    await until(
      'it left',
      async () => !['queued', 'sending'].includes((await messages().one({ id: message.id }))?.state ?? ''),
    );
  }
  const mine = await messages().all({ contact_id: kept });
  expect(new Set(mine.map(({ conversation_id }) => conversation_id)).size).toBe(1);
  await until('the text is there', async () =>
    (await bench.received(INES)).some(({ text, way }) => way === 'text' && text === `Over ${mossgate.channel.id}`),
  );
});

test('what is agreed to on one platform opens no other; what is declined on one is declined on all', async () => {
  const { ctx } = house;
  const [one, other] = desks as [ChannelRow, ChannelRow];
  const kept = (await arrived('Hello from a boat')).contact_id;
  const harbours = await arrived('Harbours, please');
  if (harbours.contact_id !== kept)
    await mergeContacts(ctx, SYSTEM, { keptId: kept, goneId: harbours.contact_id, why: 'the same person' });
  const agrees = async (channel: ChannelRow) => {
    const identities = await ctx.store.identities.all({ contact_id: kept, kind: 'handle' });
    const agreed = await agreedOver(ctx.store, kept, identities);
    return identities.some(
      (row) => row.scope === channel.account_id && holdsOver(agreed.get(identityKey(row)) ?? [], channel),
    );
  };
  const standing = async () => (await ctx.store.contactConsents.one({ contact_id: kept, way: 'platform' }))?.state;
  await enterConsent(ctx, SYSTEM, { contactId: kept, way: 'platform', what: 'given', wording: 'On paper, for all.' });
  expect([await agrees(one), await agrees(other)]).toEqual([true, true]);
  await talk(one, 'STOP');
  await until('it stands', async () => (await standing()) === 'withdrawn');
  expect([await agrees(one), await agrees(other)]).toEqual([false, false]);
  await expect(send(PRIYA, { to: harbours.sender, from: other.id, text: 'Hello' })).rejects.toThrow();
  await talk(one, 'START');
  await until('it is given again', async () => (await standing()) === 'given');
  expect([await agrees(one), await agrees(other)]).toEqual([true, false]);
});
