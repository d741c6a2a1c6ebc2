/** Record actions over the wire: what a text becomes in the customer database and at the ticket desk. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createApp } from '../src/operations/apps/apps';
import { lookUpPerson } from '../src/operations/apps/records/lookUps';
import { addRecordAction, checkRecords, connectRecords, getRecords } from '../src/operations/apps/records/records';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

interface Person {
  full_name: string;
  mobile: string;
  last_message?: string;
  source?: string;
}
interface Ticket {
  subject: string;
  body: string;
  requester: string;
  state: string;
}

let installation: Installation;
let towpathId: string;
let weirId: string;

const towpath = () => installation.bench.read<{ people: Person[] }>('/towpath');
const weir = () => installation.bench.read<{ tickets: Ticket[] }>('/weir');
const text = (from: string, words: string) => installation.bench.type(from, '+442079460114', words);
const initial = (view: Awaited<ReturnType<typeof getRecords>>, record: string) =>
  Object.fromEntries(
    view.types.find(({ id }) => id === record)?.fields.map((field) => [field.name, field.initial]) ?? [],
  );

function towpathCredentials() {
  const { world } = installation;
  return { address: `http://127.0.0.1:${world.ports.towpath}/v3`, token: world.towpath.tokens[0]?.token ?? '' };
}

function weirCredentials() {
  const { world } = installation;
  return { address: `http://127.0.0.1:${world.ports.weir}`, desk: world.weir.desk, key: world.weir.key };
}

beforeAll(async () => {
  installation = await startInstallation();
  await connectMossgate(installation);
  const { ctx } = installation;
  towpathId = (await createApp(ctx, SYSTEM, { name: 'Towpath Records', description: '' })).id;
  weirId = (await createApp(ctx, SYSTEM, { name: 'Weir Desk', description: '' })).id;
});
afterAll(() => installation.stop());

test('credentials that are wrong are told before anything is stored', async () => {
  const { ctx } = installation;
  const wrong = { ...towpathCredentials(), token: `twp_${'x'.repeat(32)}` };
  await expect(
    connectRecords(ctx, SYSTEM, { appId: towpathId, connector: 'towpath', credentials: wrong }),
  ).rejects.toThrow('This token is not known');
  const swapped = { ...weirCredentials(), desk: 'moss' };
  await expect(
    connectRecords(ctx, SYSTEM, { appId: weirId, connector: 'weirdesk', credentials: swapped }),
  ).rejects.toThrow('cannot be right');
  expect(await ctx.store.appAccounts.all()).toEqual([]);
});

test('a text makes a person, the next changes it; each from a new sender is a ticket unless one is open', async () => {
  const { ctx } = installation;
  await connectRecords(ctx, SYSTEM, { appId: towpathId, connector: 'towpath', credentials: towpathCredentials() });
  await connectRecords(ctx, SYSTEM, { appId: weirId, connector: 'weirdesk', credentials: weirCredentials() });
  const people = await getRecords(ctx, SYSTEM, towpathId);
  expect(people.connection).toMatchObject({ state: 'accepted', remoteName: 'Mossgate customer records' });
  await addRecordAction(ctx, SYSTEM, towpathId, {
    name: 'Everybody who texts',
    record: 'contact',
    way: 'upsert',
    fields: { ...initial(people, 'contact'), last_message: 'Wrote: {{ message.text }}' },
  });
  const desk = await getRecords(ctx, SYSTEM, weirId);
  await addRecordAction(ctx, SYSTEM, weirId, {
    name: 'A ticket',
    record: 'ticket',
    way: 'create-if-none',
    fields: initial(desk, 'ticket'),
  });

  await text(TOMAS, 'Is the slip free on Sunday?');
  const made = await until('Towpath has the person', async () =>
    (await towpath()).people.find(({ mobile }) => mobile === TOMAS),
  );
  expect(made).toMatchObject({ last_message: 'Wrote: Is the slip free on Sunday?', source: 'Windgap, Harbour desk' });
  await until('Weir Desk has the ticket', async () =>
    (await weir()).tickets.find(({ requester }) => requester === TOMAS),
  );
  await text(TOMAS, 'And on Monday?');
  await until('the person is changed', async () =>
    (await towpath()).people.find((person) => person.last_message === 'Wrote: And on Monday?'),
  );
  const view = await until('both tickets were considered', async () => {
    const now = await getRecords(ctx, SYSTEM, weirId);
    return now.actions[0]?.runs.filter(({ run }) => run.state === 'done').length === 2 ? now : undefined;
  });
  expect((await weir()).tickets.filter(({ requester }) => requester === TOMAS)).toHaveLength(1);
  expect((await towpath()).people.filter(({ mobile }) => mobile === TOMAS)).toHaveLength(1);
  expect(view.actions[0]?.runs[0]?.run.results.at(-1)?.said).toBe('1 open already, so no ticket was made');
  expect(view.actions[0]?.proofs).toMatchObject([{ hop: 'call-out', state: 'proven' }]);
  const evidence = JSON.stringify((await getRecords(ctx, SYSTEM, towpathId)).actions[0]?.runs);
  expect(evidence).toContain('/people');
  expect(evidence).not.toContain(towpathCredentials().token);
});

test('several texts of somebody new at once make one person, however slow the app is', async () => {
  const NEW = '+447700900177';
  await installation.bench.addHandset(NEW);
  await Promise.all(['One', 'Two', 'Three'].map((words) => text(NEW, words)));
  await until('all three are kept', async () => {
    const { ctx } = installation;
    const messages = await ctx.store.messages.all({ sender: NEW });
    const runs = await ctx.store.runs.all({ subject_id: messages.map(({ id }) => id) });
    return messages.length === 3 && runs.length === 6 && runs.every(({ state }) => state === 'done');
  });
  expect((await towpath()).people.filter(({ mobile }) => mobile === NEW)).toHaveLength(1);
  expect((await weir()).tickets.filter(({ requester }) => requester === NEW)).toHaveLength(1);
});

test('what people write is never taken for a template', async () => {
  await text(TOMAS, 'See {{ contact.name }} {% raw %}');
  await until('the words arrive as written', async () =>
    (await towpath()).people.find((person) => person.last_message === 'Wrote: See {{ contact.name }} {% raw %}'),
  );
});

describe('an app in trouble', () => {
  test('down: the record waits, the mark is broken, and it is made when the app is back', async () => {
    const { ctx, bench } = installation;
    await bench.faults({ weir: { answers500: true } });
    await text(INES, 'There is a tree across the lock.');
    await until(
      'the mark is broken',
      async () => (await getRecords(ctx, SYSTEM, weirId)).actions[0]?.proofs[0]?.cause === 'app-error',
    );
    expect((await weir()).tickets.filter(({ requester }) => requester === INES)).toEqual([]);
    await bench.faults({ weir: { answers500: false } });
    await until('the ticket is made', async () => (await weir()).tickets.find(({ requester }) => requester === INES));
    await until(
      'the mark is proven',
      async () => (await getRecords(ctx, SYSTEM, weirId)).actions[0]?.proofs[0]?.state === 'proven',
    );
  });

  test('it takes the ticket and never says so: there is one ticket', async () => {
    const { ctx, bench } = installation;
    await bench.faults({ weir: { takesAndHangs: true } });
    await addRecordAction(ctx, SYSTEM, weirId, {
      name: 'Always a ticket',
      record: 'ticket',
      way: 'create',
      fields: { ...initial(await getRecords(ctx, SYSTEM, weirId), 'ticket'), subject: 'Always' },
    });
    await text(INES, 'Once only.');
    await until('the desk has it', async () => (await weir()).tickets.some(({ subject }) => subject === 'Always'));
    await until(
      'the first attempt is over',
      async () => (await getRecords(ctx, SYSTEM, weirId)).actions[1]?.runs[0]?.run.results.length,
    );
    // The other app was not kept waiting: its record was noted while this one gave no answer.
    const notedAt = async (app: string, action: number) =>
      (await getRecords(ctx, SYSTEM, app)).actions[action]?.runs[0]?.run.results[0]?.at ?? 0;
    expect(await notedAt(towpathId, 0)).toBeLessThan(await notedAt(weirId, 1));
    await bench.faults({ weir: { takesAndHangs: false } });
    await until(
      'it is known',
      async () => (await getRecords(ctx, SYSTEM, weirId)).actions[1]?.runs[0]?.run.state === 'done',
    );
    expect((await weir()).tickets.filter(({ subject }) => subject === 'Always')).toHaveLength(1);
  });

  test('a token that may not write is named, with the record that did not go', async () => {
    const { ctx, bench, world } = installation;
    const [token] = world.towpath.tokens;
    await bench.change('towpath', { tokens: [{ ...token, may: 'read' }] });
    await text(INES, 'Am I noted?');
    const view = await until('the run has failed', async () => {
      const now = await getRecords(ctx, SYSTEM, towpathId);
      const [action] = now.actions;
      return action?.runs[0]?.run.state === 'failed' && action.proofs[0]?.state === 'broken' ? now : undefined;
    });
    expect(view.actions[0]?.runs[0]?.run.results.at(-1)?.finding?.problem).toContain(
      'This token may read and not write',
    );
    expect(view.actions[0]?.proofs).toMatchObject([{ state: 'broken', cause: 'app-credential-refused' }]);
    await bench.change('towpath', { tokens: [{ ...token, may: 'write', ended: true }] });
    await checkRecords(ctx, SYSTEM, towpathId);
    expect((await getRecords(ctx, SYSTEM, towpathId)).connection).toMatchObject({
      state: 'refused',
      said: 'This token has ended',
    });
    await bench.change('towpath', { tokens: [token] });
  });

  test('looking a person up: who it is, what is open, and a stated answer when an app is silent', async () => {
    const { ctx, bench } = installation;
    await until(
      'what was said before is kept',
      async () => (await ctx.store.runs.count({ state: ['due', 'waiting'] })) === 0,
    );
    const known = await lookUpPerson(ctx, SYSTEM, INES);
    expect(known).toMatchObject([
      { appName: 'Towpath Records', label: 'Person', found: { title: 'Ines Calder' } },
      { appName: 'Weir Desk', label: 'Ticket', open: 3 },
    ]);
    await bench.faults({ towpath: { slow: true }, weir: { down: true } });
    expect(await lookUpPerson(ctx, SYSTEM, INES)).toEqual(known);
    const began = Date.now();
    const silent = await lookUpPerson(ctx, SYSTEM, '+447700900999');
    expect(Date.now() - began).toBeLessThan(4500);
    expect(silent.map(({ problem }) => problem)).toEqual([
      'Towpath Records did not answer within 3 seconds.',
      expect.stringContaining('No connection to Weir Desk'),
    ]);
    await bench.faults({ towpath: { slow: false }, weir: { down: false } });
  });
});
