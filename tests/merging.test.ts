/** Two contacts that are one person: suggested, merged, written with under either number, and taken apart again. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { RouteStep } from '../src/core/routing/route';
import { SYSTEM } from '../src/operations/actor';
import { enterConsent } from '../src/operations/consents';
import { addContact, changeContact, getContactPage } from '../src/operations/contactPages';
import { addNote } from '../src/operations/conversationWork';
import { keepApart, mergeContacts, suggestMerges, undoMerge } from '../src/operations/merging';
import { createSender } from '../src/operations/sending';
import { addTodo } from '../src/operations/todos';
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
  ] as const)
    await house.bench.type(number, mossgate.channel.address, text);
  await until('both came in', async () => (await house.w.store.messages.count({ direction: 'in' })) === 2);
});
afterAll(() => house.stop());

const ownerOf = async (value: string) =>
  (await house.w.store.identities.one({ kind: 'phone', value }))?.contact_id ?? '';
const know = (id: string, name: string, attributes: Record<string, string>, tags: string[] = []) =>
  changeContact(house.w, SYSTEM, id, { name, language: '', zone: '', tags, attributes });
const threadOf = async (id: string) =>
  (await house.w.store.messages.all({ contact_id: id }, { order: [['id', 'ASC']] })).map(({ text }) => text);

test('who shares an e-mail address is suggested, until somebody says they are two', async () => {
  const { w } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  await know(ines, 'Ines Calder', { email: 'ines@heron.example', boat: 'Heron' });
  await know(tomas, '', { 'e-mail': 'Ines@Heron.example', berth: '14' }, ['moorings']);
  const [pair] = await suggestMerges(w, SYSTEM);
  expect(pair).toMatchObject({ ids: [ines, tomas].sort(), why: 'Both have ines@heron.example' });
  await keepApart(w, SYSTEM, [tomas, ines]);
  expect(await suggestMerges(w, SYSTEM)).toEqual([]);
});

test('merged, everything is one: thread, numbers, tags; what either declined is declined', async () => {
  const { w } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  await enterConsent(w, SYSTEM, { contactId: ines, way: 'text', what: 'given', wording: 'on the form' });
  await enterConsent(w, SYSTEM, { contactId: tomas, way: 'text', what: 'withdrawn', wording: 'on the telephone' });
  await mergeContacts(w, SYSTEM, { keptId: ines, goneId: tomas, why: 'Both have ines@heron.example' });

  const page = await getContactPage(w, SYSTEM, ines);
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
  expect(await w.store.conversations.all({ contact_id: [ines, tomas] })).toMatchObject([
    { contact_id: ines, last_text: 'From the boat’s phone', unread: 2 },
  ]);
  const send = createSender(w);
  for (const to of [INES, TOMAS])
    await expect(send(SYSTEM, { to, from: mossgate.channel.id, text: 'Anything' })).rejects.toThrow(/declined|no more/);
});

test('what comes from either number afterwards is in the one thread', async () => {
  await house.bench.type(TOMAS, mossgate.channel.address, 'Afterwards, from the boat');
  const ines = await ownerOf(INES);
  await until('it came in', async () => (await threadOf(ines)).includes('Afterwards, from the boat'));
});

test('undone, each has their own again, what came since too, and consents stand as they stood', async () => {
  const { w } = house;
  const ines = await ownerOf(INES);
  const [merge] = await w.store.contactMerges.all({ kept_id: ines });
  const { goneId } = await undoMerge(w, SYSTEM, merge?.id ?? '');
  expect(await ownerOf(TOMAS)).toBe(goneId);
  expect(await threadOf(ines)).toEqual(['From my own phone']);
  expect(await threadOf(goneId)).toEqual(['From the boat’s phone', 'Afterwards, from the boat']);
  expect(await w.store.conversations.one({ contact_id: ines })).toMatchObject({ last_text: 'From my own phone' });
  expect(await w.store.conversations.one({ contact_id: goneId })).toMatchObject({
    last_text: 'Afterwards, from the boat',
  });
  const page = await getContactPage(w, SYSTEM, ines);
  expect(page.attributes).toEqual({ boat: 'Heron', email: 'ines@heron.example' });
  expect(page.tags).toEqual([]);
  expect(page.consents).toMatchObject([{ state: 'given' }]);
  expect((await getContactPage(w, SYSTEM, goneId)).consents).toMatchObject([{ state: 'withdrawn' }]);
  await expect(undoMerge(w, SYSTEM, merge?.id ?? '')).rejects.toThrow(/undone already/);
});

test('what hangs on the one that goes comes along: notes, a question that waits, to-dos; and goes back', async () => {
  const { w, bench } = house;
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
  await enterConsent(w, SYSTEM, { contactId: tomas, way: 'text', what: 'given', wording: 'changed his mind' });
  await publishRoutes(w, [route('Book a passage', all(), [ask])]);
  await bench.type(TOMAS, mossgate.channel.address, 'Passage please');
  await until(
    'he is asked',
    async () => (await w.store.runs.count({ contact_id: tomas, awaiting: 1, state: 'waiting' })) === 1,
  );
  const gone = await w.store.conversations.one({ contact_id: tomas });
  const own = await w.store.conversations.one({ contact_id: ines });
  await addNote(w, SYSTEM, gone?.id ?? '', 'Rang about the lock');
  await addTodo(w, SYSTEM, { title: 'Ring him back', contactId: tomas });
  await w.store.write((unit) => unit.conversations.change({ id: own?.id ?? '' }, { state: 'closed', closed_at: 1 }));

  const { id } = await mergeContacts(w, SYSTEM, { keptId: ines, goneId: tomas, why: 'one person' });
  const notesOf = async (conversation: string | undefined) =>
    (await w.store.conversationNotes.all({ conversation_id: conversation ?? '', kind: 'note' })).map(
      ({ text }) => text,
    );
  expect(await notesOf(own?.id)).toEqual(['Rang about the lock']);
  expect(await w.store.todos.all({ contact_id: ines })).toMatchObject([{ title: 'Ring him back' }]);
  // Somebody waits for an answer in it, so it is no longer closed.
  expect(await w.store.conversations.one({ contact_id: ines })).toMatchObject({ state: gone?.state, closed_at: null });

  await bench.type(TOMAS, mossgate.channel.address, 'Heron Staircase');
  await until('the answer is taken for one', async () =>
    (await bench.received(TOMAS)).some(({ text }) => text === 'Booked: Heron Staircase'),
  );
  await undoMerge(w, SYSTEM, id);
  expect(await notesOf(gone?.id)).toEqual(['Rang about the lock']);
  expect(await notesOf(own?.id)).toEqual([]);
  expect(await w.store.todos.all({ contact_id: tomas })).toMatchObject([{ title: 'Ring him back' }]);
  expect(await w.store.runs.count({ contact_id: tomas, source: 'route' })).toBe(1);
});

test('every column that names a contact or a conversation is one that merging deals with', async () => {
  const columns = await house.w.store.select<{ name: string }>(
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
  const stays = ['consent_entries.contact_id', 'import_lines.contact_id'];
  expect(columns.map(({ name }) => name)).toEqual([...moved, ...stays].sort());
});

test('whoever had no thread takes the other’s, and gives it back', async () => {
  const { w } = house;
  const [ines, tomas] = [await ownerOf(INES), await ownerOf(TOMAS)];
  const { id: blank } = await addContact(w, SYSTEM, {
    name: 'Ines at work',
    phone: '+447700900555',
  });
  const { id } = await mergeContacts(w, SYSTEM, { keptId: blank, goneId: ines, why: 'told so' });
  expect(await threadOf(blank)).toEqual(['From my own phone']);
  expect(await w.store.conversations.one({ contact_id: blank })).toMatchObject({ last_text: 'From my own phone' });
  await expect(mergeContacts(w, SYSTEM, { keptId: tomas, goneId: ines, why: '' })).rejects.toThrow();
  await undoMerge(w, SYSTEM, id);
  expect(await threadOf(ines)).toEqual(['From my own phone']);
  expect(await w.store.conversations.one({ contact_id: blank })).toBeUndefined();
  expect(await w.store.conversations.one({ contact_id: ines })).toMatchObject({ last_text: 'From my own phone' });
});
