/** Conversations people work in: whose they are, two at once, closing by themselves, and who may write first. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { findElsewhere, getThread, listConversations } from '../src/operations/conversations/conversations';
import {
  addNote,
  answerIn,
  beAt,
  closeByHand,
  closeIdle,
  colleagues,
  countViews,
  giveConversation,
  othersAt,
  reopenConversation,
  setIdleRule,
} from '../src/operations/conversations/conversationWork';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { addPerson, changePerson } from '../src/operations/people/people';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let send: Sender;
let priya: Extract<Actor, { kind: 'user' }>;
let arlo: Extract<Actor, { kind: 'user' }>;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  send = createSender(house.ctx);
  const person = async (name: string) => {
    const { id } = await addPerson(house.ctx, SYSTEM, {
      name,
      email: `${name.toLowerCase()}@mossgate.example`,
      password: 'towpath at low water',
      role: 'agent',
    });
    return { kind: 'user' as const, id, name, role: 'agent' as const };
  };
  priya = await person('Priya');
  arlo = await person('Arlo');
  await changePerson(house.ctx, SYSTEM, arlo.id, { teams: 'Keepers', mayStart: false });
});
afterAll(() => house.stop());

const says = (number: string, text: string) => house.bench.type(number, mossgate.channel.address, text);
const conversationOf = async (number: string) => {
  await until('it is there', async () => (await listConversations(house.ctx, SYSTEM, number)).length > 0);
  const [conversation] = await listConversations(house.ctx, SYSTEM, number);
  return conversation as NonNullable<typeof conversation>;
};
const ids = async (actor: Actor, view: Parameters<typeof listConversations>[3]) =>
  (await listConversations(house.ctx, actor, '', view)).map(({ id }) => id);

test('what goes out by itself is no work until somebody answers, and can be found all the same', async () => {
  const { ctx } = house;
  const app: Actor = { kind: 'app', id: mossgate.appId, name: 'Lockbook', keyId: '', scopes: ['messages:send'] };
  await send(app, { to: TOMAS, from: mossgate.channel.id, text: 'Your mooring ends in May' });
  const conversation = await conversationOf(TOMAS);
  expect(await ids(priya, 'working')).not.toContain(conversation.id);
  expect(await ids(priya, 'quiet')).toEqual([conversation.id]);
  expect(await findElsewhere(ctx, priya, 'mooring ends', 'working')).toEqual([{ view: 'quiet', n: 1 }]);
  await says(TOMAS, 'Can I stay until June?');
  await until('it is work', async () => (await ids(priya, 'working')).includes(conversation.id));
  expect(await countViews(ctx, priya)).toMatchObject({ working: 1, unassigned: 1, mine: 0, quiet: 0 });
});

test('taken, given to a team, closed and opened again, each turn noted; a note is never sent', async () => {
  const { ctx } = house;
  const { id } = await conversationOf(TOMAS);
  await giveConversation(ctx, priya, id, { person: priya.id });
  expect(await ids(priya, 'mine')).toEqual([id]);
  expect(await ids(arlo, 'mine')).toEqual([]);
  await giveConversation(ctx, priya, id, { team: 'Keepers' });
  expect(await ids(arlo, 'team')).toEqual([id]);
  expect(await ids(priya, 'team')).toEqual([]);
  await addNote(ctx, priya, id, 'Has paid until May.');
  await closeByHand(ctx, arlo, id);
  expect(await ids(arlo, 'closed')).toEqual([id]);
  expect(await findElsewhere(ctx, priya, '+46 70 174 06 12', 'working')).toEqual([{ view: 'closed', n: 1 }]);
  await reopenConversation(ctx, arlo, id);
  await expect(reopenConversation(ctx, arlo, id)).rejects.toThrow(/open already/);
  const { notes, messages } = await getThread(ctx, priya, id);
  expect(notes.map(({ by, kind, text }) => `${by} ${kind} ${text}`)).toEqual([
    'Priya turn assigned it to themselves',
    'Priya turn assigned it to the team Keepers',
    'Priya note Has paid until May.',
    'Arlo turn closed it',
    'Arlo turn reopened it',
  ]);
  expect(messages).toHaveLength(2);
  expect((await colleagues(ctx, priya)).teams).toEqual(['Keepers']);
});

test('two at once see each other, and the second answer is held back', async () => {
  const { ctx } = house;
  await says(INES, 'Is the lock open?');
  const { id } = await conversationOf(INES);
  const seen = (await getThread(ctx, priya, id)).messages.at(-1);
  await beAt(ctx, priya, id, false);
  await beAt(ctx, arlo, id, true);
  expect(await othersAt(ctx, priya, id)).toEqual([{ name: 'Arlo', writing: true }]);
  const answer = (actor: Actor, text: string) =>
    answerIn(ctx, send, actor, {
      conversationId: id,
      seen: seen?.id,
      to: INES,
      from: mossgate.channel.id,
      inReplyTo: seen?.id,
      text,
    });
  await answer(arlo, 'Yes, until six.');
  await expect(answer(priya, 'It is.')).rejects.toThrow(/Arlo has just answered: “Yes, until six.”/);
  await answer(arlo, 'And from eight tomorrow.');
  expect((await ctx.store.conversations.one({ id }))?.state).toBe('waiting');
  const later = (await getThread(ctx, priya, id)).messages.at(-1)?.id;
  await answerIn(ctx, send, priya, {
    conversationId: id,
    seen: later,
    to: INES,
    from: mossgate.channel.id,
    text: 'Anything else?',
  });
});

test('whoever may only answer is refused to write first, with the reason', async () => {
  const { ctx } = house;
  const stranger = '+447700900888';
  await expect(send(arlo, { to: stranger, from: mossgate.channel.id, text: 'Hello' })).rejects.toMatchObject({
    findings: [{ finding: { code: 'may-only-reply' } }],
  });
  await send(arlo, { to: INES, from: mossgate.channel.id, text: 'You wrote, so I may.' });
  await send(priya, { to: stranger, from: mossgate.channel.id, text: 'Hello' });
  // They have not answered yet: another may still not go on.
  await expect(send(arlo, { to: stranger, from: mossgate.channel.id, text: 'Again' })).rejects.toThrow(/may answer/);
  expect((await conversationOf(stranger)).state).toBe('waiting');
  expect(await ctx.store.messages.count({ recipient: stranger })).toBe(1);
});

test('who has a conversation gets one mail until it is read, where they want that', async () => {
  const { ctx } = house;
  const noticesOf = async (id: string) => ctx.store.runs.all({ source: 'notice', source_id: id });
  const { id } = await conversationOf(INES);
  await ctx.store.write((unit) => unit.settings.put({ name: 'mail-account', value: { sealed: '', changedAt: 1 } }));
  await ctx.store.write((unit) => unit.conversations.change({ id }, { unread: 0 }));
  await giveConversation(ctx, SYSTEM, id, { person: priya.id });
  await says(INES, 'Nobody asked for mails yet');
  await until('it came in', async () => ctx.store.messages.one({ text: 'Nobody asked for mails yet' }));
  expect(await noticesOf(id)).toEqual([]);

  await changePerson(ctx, SYSTEM, priya.id, { teams: '', mayStart: true, mailMe: true });
  await ctx.store.write((unit) => unit.conversations.change({ id }, { unread: 0 }));
  await says(INES, 'Now they did');
  await until('a mail is on its way', async () => (await noticesOf(id)).length === 1);
  await says(INES, 'And more of it');
  await until('it came in', async () => ctx.store.messages.one({ text: 'And more of it' }));
  const [notice, ...others] = await noticesOf(id);
  expect(others).toEqual([]);
  expect(notice?.steps).toMatchObject([
    { to: ['priya@mossgate.example'], text: expect.stringContaining(`/route/conversations/${id}`) },
  ]);
  await ctx.store.write((unit) => unit.settings.remove({ name: 'mail-account' }));
  await send(priya, { to: INES, from: mossgate.channel.id, text: 'I read it.' });
});

describe('closing by itself', () => {
  const age = (id: string, hours: number) =>
    house.ctx.store.write((unit) =>
      unit.execute(
        'UPDATE conversations SET last_message_at = last_message_at - :by, idle_noticed_at = idle_noticed_at - :by WHERE id = :id',
        {
          id,
          by: hours * 3_600_000,
        },
      ),
    );

  test('told before, then closed, with the reason; never one that waits for us', async () => {
    const { ctx } = house;
    await setIdleRule(ctx, SYSTEM, {
      on: true,
      hours: 48,
      notice: 'We close this tomorrow unless you write.',
      noticeHours: 24,
    });
    const ours = await conversationOf(INES);
    const theirs = await conversationOf(TOMAS);
    await says(TOMAS, 'Still waiting for you');
    await until('it is open', async () => (await conversationOf(TOMAS)).state === 'open');
    await age(theirs.id, 500);
    await age(ours.id, 25);
    expect(await closeIdle(ctx, send)).toEqual({ noticed: 1, closed: 0 });
    await until('they are told', async () =>
      (await house.bench.received(INES)).some(({ text }) => text === 'We close this tomorrow unless you write.'),
    );
    expect(await closeIdle(ctx, send)).toEqual({ noticed: 0, closed: 0 });
    await age(ours.id, 25);
    expect(await closeIdle(ctx, send)).toEqual({ noticed: 0, closed: 1 });
    const { conversation, notes } = await getThread(ctx, priya, ours.id);
    expect(conversation.state).toBe('closed');
    expect(notes.at(-1)?.text).toBe('closed it: nobody wrote for 48 hours');
    expect((await conversationOf(TOMAS)).state).toBe('open');
  });

  test('who writes to a closed one opens it, and a notice is taken back by an answer', async () => {
    const { ctx } = house;
    await says(INES, 'Sorry, I was on the water');
    await until('it is open', async () => (await conversationOf(INES)).state === 'open');
    const { id } = await conversationOf(INES);
    expect((await ctx.store.conversations.one({ id }))?.idle_noticed_at).toBeNull();
    await expect(setIdleRule(ctx, SYSTEM, { on: true, hours: 4, notice: 'x', noticeHours: 4 })).rejects.toThrow(
      /before the end/,
    );
  });
});
