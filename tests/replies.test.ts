/** Over which channel somebody is answered, from the desk and by a route: where they wrote or were told to expect it, never where we wrote last. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { WEB_CHAT_START } from '../src/core/connect/webChat';
import { openChannel } from '../src/operations/channels/channels';
import { openWebChat } from '../src/operations/channels/webChat';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { addContact } from '../src/operations/contacts/contactPages';
import { SYSTEM } from '../src/operations/context/actor';
import { answerIn } from '../src/operations/conversations/conversationWork';
import { replyWays } from '../src/operations/conversations/replyWays';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, begins, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

const WEBSITE = 'https://mossgate.example';

let house: Installation;
let mossgate: Mossgate;
let send: Sender;
/** A second number of the same account. */
let second: string;
let chat: { id: string; token: string };

beforeAll(async () => {
  house = await startInstallation();
  const { ctx } = house;
  mossgate = await connectMossgate(house);
  send = createSender(ctx);
  const numbers = await ctx.store.numbers.all({ account_id: mossgate.accountId });
  const other = numbers.find(
    ({ address, abilities }) => address !== mossgate.channel.address && abilities.includes('text-in'),
  );
  second = (await openChannel(ctx, SYSTEM, { numberId: other?.id ?? '', name: 'Bookings' })).id;
  const { id } = await openWebChat(ctx, SYSTEM, {
    name: 'Website',
    settings: {
      ...WEB_CHAT_START,
      origins: [WEBSITE],
      askPhone: true,
      answers: 'later',
      replyChannelId: mossgate.channel.id,
    },
  });
  chat = { id, token: (await ctx.store.channels.one({ id }))?.inbound_token ?? '' };
  await publishRoutes(ctx, [route('hours', all(begins('hours')), [{ do: 'reply', text: 'From eight to six.' }])]);
});
afterAll(() => house.stop());

const contactOf = async (value: string) =>
  (await house.ctx.store.identities.one({ kind: 'phone', scope: '', value }))?.contact_id ?? '';
const texts = async (number: string) => (await house.bench.received(number)).map(({ text }) => text);

async function visitor() {
  const post = async (part: string, body: object) => {
    const answer = await fetch(`${house.origin}/chat/${chat.token}/${part}`, {
      method: 'POST',
      headers: { origin: WEBSITE, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    return (await answer.json()) as { key: string; code: string };
  };
  const { key } = await post('begin', { phone: INES, consent: true });
  return {
    say: (text: string) => post('say', { key, id: `said-words-${text.length}`, text }),
    confirm: (code: string | undefined) => post('confirm', { key, code }),
  };
}

test('a chat that is answered later by text is, by routes and from the desk; until the phone is confirmed it waits there', async () => {
  const { ctx } = house;
  const person = await visitor();
  await person.say('Hours on Sunday?');
  const asked = await until('it is in', () => ctx.store.messages.one({ text: 'Hours on Sunday?' }));
  const early = await until('the route answered', () => ctx.store.messages.one({ in_reply_to: asked.id }));
  expect(early).toMatchObject({ channel_id: chat.id, recipient: asked.sender });
  const before = await replyWays(ctx, SYSTEM, { contactId: asked.contact_id });
  expect(before).toMatchObject({ channelId: chat.id, reply: { to: asked.sender } });
  expect(before.reason).toMatch(/waits there until they come back/);

  const code = await until('the code arrived', async () => /code is (\d+)/.exec((await texts(INES)).join(' '))?.[1]);
  await person.confirm(code);
  await person.say('Hours on Monday, then?');
  const again = await until('it is in', () => ctx.store.messages.one({ text: 'Hours on Monday, then?' }));
  const late = await until('the route answered', () => ctx.store.messages.one({ in_reply_to: again.id }));
  expect(late).toMatchObject({ channel_id: mossgate.channel.id, recipient: INES });
  await until('it is on the phone', async () => (await texts(INES)).includes('From eight to six.'));
  const { channelId, reply, reason } = await replyWays(ctx, SYSTEM, { contactId: again.contact_id });
  expect([channelId, reply?.to]).toEqual([mossgate.channel.id, INES]);
  expect(reason).toBe('They wrote over Website and were told to expect the answer over Harbour desk.');
});

test('what we sent last over another number moves no answer there; somebody may choose to', async () => {
  const { ctx, bench } = house;
  await bench.type(TOMAS, mossgate.channel.address, 'Is the lock open?');
  const asked = await until('it is in', () => ctx.store.messages.one({ text: 'Is the lock open?' }));
  await send(SYSTEM, { to: TOMAS, from: second, text: 'A proof over another number' });
  const ways = await replyWays(ctx, SYSTEM, { contactId: asked.contact_id });
  expect(ways).toMatchObject({ channelId: mossgate.channel.id, lastInbound: asked.id });
  expect(ways.reason).toBe('They wrote last over Harbour desk.');
  expect((await ctx.store.conversations.one({ id: asked.conversation_id }))?.channel_id).toBe(mossgate.channel.id);

  const chosen = await replyWays(ctx, SYSTEM, { contactId: asked.contact_id }, second);
  expect(chosen).toMatchObject({ channelId: second, reply: { to: TOMAS } });
  await answerIn(ctx, send, SYSTEM, {
    conversationId: asked.conversation_id,
    seen: undefined,
    to: TOMAS,
    from: second,
    inReplyTo: asked.id,
    text: 'It is.',
  });
  expect(await ctx.store.messages.one({ text: 'It is.' })).toMatchObject({ channel_id: second });
  expect((await replyWays(ctx, SYSTEM, { contactId: asked.contact_id })).channelId).toBe(mossgate.channel.id);
});

test('of somebody who never wrote it is asked, unless they agreed to one, or there is one only', async () => {
  const { ctx } = house;
  const { id } = await addContact(ctx, SYSTEM, { name: 'Hilde', address: '+447700900555' });
  expect(await replyWays(ctx, SYSTEM, { contactId: id })).toMatchObject({ channelId: undefined, reply: undefined });
  await enterConsent(ctx, SYSTEM, { contactId: id, way: 'text', what: 'given', wording: 'On paper.' });
  expect((await replyWays(ctx, SYSTEM, { contactId: id })).reason).toBe(
    'They agreed to Bookings and Harbour desk: choose one.',
  );
  await enterConsent(ctx, SYSTEM, { contactId: id, way: 'text', what: 'withdrawn', wording: 'On paper.' });
  const gone = await replyWays(ctx, SYSTEM, { contactId: id });
  expect(gone.reply?.declined).toBe(true);
  expect(await contactOf('+447700900555')).toBe(id);
});
