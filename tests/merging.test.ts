/** Two contacts that are one person: suggested, merged, written with under either number, and taken apart again. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { RouteStep } from '../src/core/routing/route';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { keepApart, mergeContacts, suggestMerges, undoMerge } from '../src/operations/contacts/contactMerge';
import { addContact, changeContact, getContactPage } from '../src/operations/contacts/contactPages';
import { SYSTEM } from '../src/operations/context/actor';
import { addNote } from '../src/operations/conversations/conversationWork';
import { addTodo } from '../src/operations/conversations/todos';
import { createSender } from '../src/operations/outbound/sendMessage';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  for (const [number, text] of [
    [INES, 'From my own phone'],
    [TOMAS, 'From the boat’s phone'],
  ] as const) {
    await house.bench.type(number, mossgate.channel.address, text);
    // One after the other: which of two posts at once comes in first is for the network to say.
    await until('it came in', async () => (await house.ctx.store.messages.count({ text })) === 1);
  }
});
afterAll(() => house.stop());

const ownerOf = async (value: string) =>
  (await house.ctx.store.identities.one({ kind: 'phone', value }))?.contact_id ?? '';
const know = (id: string, name: string, attributes: Record<string, string>, tags: string[] = []) =>
  changeContact(house.ctx, SYSTEM, id, { name, language: '', zone: '', tags, attributes });
const threadOf = async (id: string) =>
  (await house.ctx.store.messages.all({ contact_id: id }, { order: [['id', 'ASC']] })).map(({ text }) => text);

test('who shares an e-mail address is suggested, until somebody says they are two', async () => {
  const { ctx } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  await know(ines, 'Ines Calder', { email: 'ines@heron.example', boat: 'Heron' });
  await know(tomas, '', { 'e-mail': 'Ines@Heron.example', berth: '14' }, ['moorings']);
  const [pair] = await suggestMerges(ctx, SYSTEM);
  expect(pair).toMatchObject({ ids: [ines, tomas].sort(), why: 'Both have ines@heron.example' });
  await keepApart(ctx, SYSTEM, [tomas, ines]);
  expect(await suggestMerges(ctx, SYSTEM)).toEqual([]);
});

test('merged, everything is one: thread, numbers, tags; what either declined is declined', async () => {
  const { ctx } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  await enterConsent(ctx, SYSTEM, { contactId: ines, way: 'text', what: 'given', wording: 'on the form' });
  await enterConsent(ctx, SYSTEM, { contactId: tomas, way: 'text', what: 'withdrawn', wording: 'on the telephone' });
  await mergeContacts(ctx, SYSTEM, { keptId: ines, goneId: tomas, why: 'Both have ines@heron.example' });

  const page = await getContactPage(ctx, SYSTEM, ines);
  expect(page.identities.map(({ value }) => value).sort()).toEqual([INES, TOMAS].sort());
  expect(page.attributes).toEqual({
    berth: '14',
    boat: 'Heron',
    email: 'ines@heron.example',
    'e-mail': 'Ines@Heron.example',
  });
  expect(page.tags).toEqual(['moorings']);
  expect(page.consents).toMatchObject([{ way: 'text', state: 'withdrawn' }]);
  expect(page.ledger[0]).toMatchObject({ what: 'withdrawn', how: 'merge', wording: 'on the telephone' });
  expect(page.merges).toMatchObject([{ gone: null, merge: { why: 'Both have ines@heron.example' } }]);
  expect(await threadOf(ines)).toEqual(['From my own phone', 'From the boat’s phone']);
  expect(await ctx.store.conversations.all({ contact_id: [ines, tomas] })).toMatchObject([
    { contact_id: ines, last_text: 'From the boat’s phone', unread: 2 },
  ]);
  const send = createSender(ctx);
  for (const to of [INES, TOMAS])
    await expect(send(SYSTEM, { to, from: mossgate.channel.id, text: 'Anything' })).rejects.toThrow(/declined|no more/);
});

test('what comes from either number afterwards is in the one thread', async () => {
  await house.bench.type(TOMAS, mossgate.channel.address, 'Afterwards, from the boat');
  const ines = await ownerOf(INES);
  await until('it came in', async () => (await threadOf(ines)).includes('Afterwards, from the boat'));
});

test('undone, each has their own again, what came since too, and consents stand as they stood', async () => {
  const { ctx } = house;
  const ines = await ownerOf(INES);
  const [merge] = await ctx.store.contactMerges.all({ kept_id: ines });
  const { goneId } = await undoMerge(ctx, SYSTEM, merge?.id ?? '');
  expect(await ownerOf(TOMAS)).toBe(goneId);
  expect(await threadOf(ines)).toEqual(['From my own phone']);
  expect(await threadOf(goneId)).toEqual(['From the boat’s phone', 'Afterwards, from the boat']);
  expect(await ctx.store.conversations.one({ contact_id: ines })).toMatchObject({ last_text: 'From my own phone' });
  expect(await ctx.store.conversations.one({ contact_id: goneId })).toMatchObject({
    last_text: 'Afterwards, from the boat',
  });
  const page = await getContactPage(ctx, SYSTEM, ines);
  expect(page.attributes).toEqual({ boat: 'Heron', email: 'ines@heron.example' });
  expect(page.tags).toEqual([]);
  expect(page.consents).toMatchObject([{ state: 'given' }]);
  expect((await getContactPage(ctx, SYSTEM, goneId)).consents).toMatchObject([{ state: 'withdrawn' }]);
  await expect(undoMerge(ctx, SYSTEM, merge?.id ?? '')).rejects.toThrow(/undone already/);
});

test('what hangs on the one that goes comes along: notes, a question that waits, to-dos; and goes back', async () => {
  const { ctx, bench } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  const ask: RouteStep = {
    do: 'ask',
    text: 'Which lock?',
    keep: 'lock',
    answers: [],
    otherwise: [{ do: 'reply', text: 'Booked: {{ answers.lock }}' }],
    minutes: 60,
    late: [],
  };
  await enterConsent(ctx, SYSTEM, { contactId: tomas, way: 'text', what: 'given', wording: 'changed his mind' });
  await publishRoutes(ctx, [route('Book a passage', all(), [ask])]);
  await bench.type(TOMAS, mossgate.channel.address, 'Passage please');
  await until(
    'he is asked',
    async () => (await ctx.store.runs.count({ contact_id: tomas, awaiting: 1, state: 'waiting' })) === 1,
  );
  const gone = await ctx.store.conversations.one({ contact_id: tomas });
  const own = await ctx.store.conversations.one({ contact_id: ines });
  await addNote(ctx, SYSTEM, gone?.id ?? '', 'Rang about the lock');
  await addTodo(ctx, SYSTEM, { title: 'Ring him back', contactId: tomas });
  await ctx.store.write((unit) => unit.conversations.change({ id: own?.id ?? '' }, { state: 'closed', closed_at: 1 }));

  const { id } = await mergeContacts(ctx, SYSTEM, { keptId: ines, goneId: tomas, why: 'one person' });
  const notesOf = async (conversation: string | undefined) =>
    (await ctx.store.conversationNotes.all({ conversation_id: conversation ?? '', kind: 'note' })).map(
      ({ text }) => text,
    );
  expect(await notesOf(own?.id)).toEqual(['Rang about the lock']);
  expect(await ctx.store.todos.all({ contact_id: ines })).toMatchObject([{ title: 'Ring him back' }]);
  // Somebody waits for an answer in it, so it is no longer closed.
  expect(await ctx.store.conversations.one({ contact_id: ines })).toMatchObject({
    state: gone?.state,
    closed_at: null,
  });

  await bench.type(TOMAS, mossgate.channel.address, 'Heron Staircase');
  await until('the answer is taken for one', async () =>
    (await bench.received(TOMAS)).some(({ text }) => text === 'Booked: Heron Staircase'),
  );
  await undoMerge(ctx, SYSTEM, id);
  expect(await notesOf(gone?.id)).toEqual(['Rang about the lock']);
  expect(await notesOf(own?.id)).toEqual([]);
  expect(await ctx.store.todos.all({ contact_id: tomas })).toMatchObject([{ title: 'Ring him back' }]);
  expect(await ctx.store.runs.count({ contact_id: tomas, source: 'route' })).toBe(1);
});

test('every column that names a contact or a conversation is one that merging deals with', async () => {
  const columns = await house.ctx.store.select<{ name: string }>(
    `SELECT m.name || '.' || c.name AS name FROM sqlite_master m, pragma_table_info(m.name) c
      WHERE m.type = 'table' AND (c.name LIKE '%contact_id' OR c.name LIKE '%conversation_id') ORDER BY 1`,
  );
  const moved = [
    ...['contact_attributes.contact_id', 'contact_consents.contact_id', 'contact_identities.contact_id'],
    ...['contact_tags.contact_id', 'conversation_notes.conversation_id', 'conversation_presence.conversation_id'],
    ...['conversations.contact_id', 'messages.contact_id', 'messages.conversation_id', 'reply_windows.contact_id'],
    ...['runs.contact_id', 'todos.contact_id'],
  ];
  // What was said to whom, and which line made whom, stays as it was.
  const stays = [
    ...['broadcast_recipients.contact_id', 'consent_entries.contact_id', 'identity_entries.contact_id'],
    'import_lines.contact_id',
  ];
  expect(columns.map(({ name }) => name)).toEqual([...moved, ...stays].sort());
});

test('whoever had no thread takes the other’s, and gives it back', async () => {
  const { ctx } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  const { id: blank } = await addContact(ctx, SYSTEM, {
    name: 'Ines at work',
    address: '+447700900555',
  });
  const { id } = await mergeContacts(ctx, SYSTEM, { keptId: blank, goneId: ines, why: 'told so' });
  expect(await threadOf(blank)).toEqual(['From my own phone']);
  expect(await ctx.store.conversations.one({ contact_id: blank })).toMatchObject({ last_text: 'From my own phone' });
  await expect(mergeContacts(ctx, SYSTEM, { keptId: tomas, goneId: ines, why: '' })).rejects.toThrow();
  await undoMerge(ctx, SYSTEM, id);
  expect(await threadOf(ines)).toEqual(['From my own phone']);
  expect(await ctx.store.conversations.one({ contact_id: blank })).toBeUndefined();
  expect(await ctx.store.conversations.one({ contact_id: ines })).toMatchObject({ last_text: 'From my own phone' });
});
