/** Broadcasts over real wires: planned, first steps, held, resumed, killed, opted out of, and never twice to anybody. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type BroadcastDefinition, EMPTY_DEFINITION } from '../src/core/broadcast/definition';
import { setAccountDisabled } from '../src/operations/accounts/accounts';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { changeHook, createHook } from '../src/operations/apps/hooks/hooks';
import {
  approveBroadcast,
  cancelBroadcast,
  holdBroadcast,
  resumeBroadcast,
  startBroadcast,
} from '../src/operations/broadcasts/course';
import { saveBroadcastRules } from '../src/operations/broadcasts/settings';
import { getBroadcastPage, listRecipients, previewBroadcast } from '../src/operations/broadcasts/views';
import { askForPlan, createBroadcast, saveBroadcast } from '../src/operations/broadcasts/writing/drafts';
import { giveList } from '../src/operations/broadcasts/writing/lists';
import { resendToFailed } from '../src/operations/broadcasts/writing/resending';
import { saveAudience } from '../src/operations/contacts/audiences';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { BroadcastRow } from '../src/store/schema/rows';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Inhabitant, numberOf, populate } from './harness/population';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let crew: Inhabitant[];
const CREW = 120;
const ada: Actor = { kind: 'user', id: 'usr_ada', name: 'Ada', role: 'owner' };
const ben: Actor = { kind: 'user', id: 'usr_ben', name: 'Ben', role: 'administrator' };

beforeAll(async () => {
  house = await startInstallation({ perSecond: 200 });
  mossgate = await connectMossgate(house, 'brackwater', 60);
  crew = await populate(house, CREW);
  const send = createSender(house.ctx);
  const { message } = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Proves the path' });
  await until(
    'the path is proven',
    async () => (await house.ctx.store.messages.one({ id: message.id }))?.state === 'delivered',
  );
});
afterAll(() => house.stop());

/** As a new installation has them. */
const RULES = {
  people: '',
  cost: '',
  prepare: 'agent',
  start: 'administrator',
  approve: 'administrator',
  most: '2',
  days: '7',
  quiet: '* 21:00-08:00',
};

const tagged = (tag: string) => ({
  by: 'filter' as const,
  conditions: { match: 'all' as const, of: [{ on: 'tag' as const, is: 'has' as const, tag }] },
});

async function draft(changed: Partial<BroadcastDefinition> & { text?: string } = {}): Promise<string> {
  const { ctx } = house;
  const { text = 'The lock is closed, {{ first_name }}.', ...rest } = changed;
  const { id } = await createBroadcast(ctx, ada, 'Stoppage');
  const definition: BroadcastDefinition = {
    ...EMPTY_DEFINITION,
    message: { ...EMPTY_DEFINITION.message, text },
    audience: { include: [tagged('crew')], exclude: [] },
    channels: [mossgate.channel.id],
    quietHours: false,
    rules: { ...EMPTY_DEFINITION.rules, first: 0 },
    ...rest,
  };
  await saveBroadcast(ctx, ada, id, { definition, version: 1 });
  return id;
}

const row = async (id: string): Promise<BroadcastRow> => (await house.ctx.store.broadcasts.one({ id })) as BroadcastRow;
const page = (id: string) => getBroadcastPage(house.ctx, ada, id);

async function planned(id: string): Promise<BroadcastRow> {
  await askForPlan(house.ctx, ada, id, (await row(id)).version);
  await until('it is planned', async () => (await row(id)).state === 'draft');
  return row(id);
}

async function started(id: string, actor = ada): Promise<void> {
  const { version } = await planned(id);
  await startBroadcast(house.ctx, actor, id, { version });
}

const state = async (id: string, wanted: string) =>
  until(`it is ${wanted}`, async () => (await row(id)).state === wanted);

/** While the provider takes its time, so that what is done in the middle is in the middle on any machine. */
async function slowly<T>(work: () => Promise<T>): Promise<T> {
  await house.bench.faults({ brackwater: { slowAnswers: 1500 } });
  try {
    return await work();
  } finally {
    await house.bench.faults({ brackwater: { slowAnswers: 0 } });
  }
}

/** Texts at the provider by recipient. */
async function copies(text: (person: Inhabitant) => string, people = crew): Promise<Map<string, number>> {
  const counts = new Map<string, number>();
  const sent = (await house.bench.texts()).filter(({ direction }) => direction === 'out');
  const words = new Map(people.map((person) => [person.phone, text(person)]));
  for (const each of sent) if (words.get(each.to) === each.text) counts.set(each.to, (counts.get(each.to) ?? 0) + 1);
  return counts;
}

/** The counts that are kept are those of the rows. */
async function expectCountsRight(id: string): Promise<void> {
  const kept = await house.ctx.store.select(
    'SELECT state, reason, n FROM (SELECT state, reason, sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id GROUP BY state, reason) WHERE n > 0 ORDER BY state, reason',
    { id },
  );
  const real = await house.ctx.store.select(
    'SELECT state, reason, count(*) AS n FROM broadcast_recipients WHERE broadcast_id = :id GROUP BY state, reason ORDER BY state, reason',
    { id },
  );
  expect(kept).toEqual(real);
}

test('planned, seen before, sent to each once, and every one of them told of afterwards', async () => {
  const { ctx } = house;
  const [out, landline] = [crew[0] as Inhabitant, crew[1] as Inhabitant];
  await enterConsent(ctx, ada, { contactId: out.id, way: 'text', what: 'withdrawn', wording: 'On the phone' });
  await ctx.store.write((unit) => unit.identities.change({ contact_id: landline.id }, { value: '+442079460999' }));
  const id = await draft();
  const { plan } = await planned(id);
  expect(plan).toMatchObject({
    people: CREW,
    going: CREW - 2,
    leftOut: { declined: 1, landline: 1 },
    countries: { GB: CREW - 2 },
    zones: { contact: 0, number: CREW - 2, installation: 0 },
    tooLate: 0,
  });
  expect(Object.values(plan?.cost.micros ?? {})).toEqual([expect.any(Number)]);
  const [first] = await previewBroadcast(ctx, ada, id);
  expect(first?.judged).toMatchObject({ goes: true, message: { text: 'The lock is closed, Person.' } });
  const { version } = await row(id);
  await startBroadcast(ctx, ada, id, { version });
  await expect(startBroadcast(ctx, ben, id, { version })).rejects.toThrow('Ada has started it already');
  await state(id, 'finished');
  await until('all receipts are in', async () => (await page(id)).progress.delivered === CREW - 2);
  const got = await copies(() => 'The lock is closed, Person.');
  expect([got.size, Math.max(...got.values())]).toEqual([CREW - 2, 1]);
  expect(got.has(out.phone)).toBe(false);
  const { recipients } = await listRecipients(ctx, ada, id, { show: 'left-out' });
  expect(recipients.map(({ reason }) => reason?.title).sort()).toEqual(['a landline', 'opted out']);
  await expectCountsRight(id);
  const working = await ctx.store.conversations.count({ state: ['open', 'waiting'] });
  expect(working).toBeLessThanOrEqual(1);
  await ctx.store.write((unit) => unit.identities.change({ contact_id: landline.id }, { value: landline.phone }));
  await enterConsent(ctx, ada, { contactId: out.id, way: 'text', what: 'given', wording: 'On the phone' });
});

test('held, nothing more leaves than was on the wire; resumed, everybody gets it once', async () => {
  const { ctx } = house;
  const id = await draft({ text: 'Held for {{ name }}' });
  const onTheWire = await slowly(async () => {
    await started(id);
    await until('some have left', async () => {
      const { sent, delivered } = (await page(id)).progress;
      return sent + delivered > 10;
    });
    await holdBroadcast(ctx, ben, id);
    return (await copies(({ name }) => `Held for ${name}`)).size;
  });
  const { held } = await row(id);
  await until('what was claimed is put back', async () => (await ctx.store.outbox.count({ state: ['leased'] })) === 0);
  const left = (await copies(({ name }) => `Held for ${name}`)).size;
  expect(left - onTheWire).toBeLessThanOrEqual(held?.underWay ?? 0);
  expect(left).toBeLessThan(CREW);
  expect(await ctx.store.outbox.count({ state: 'due' })).toBe(0);
  await expect(resumeBroadcast(ctx, ben, id, 1)).rejects.toThrow('changed meanwhile');
  await resumeBroadcast(ctx, ben, id, (await row(id)).version);
  await state(id, 'finished');
  const got = await copies(({ name }) => `Held for ${name}`);
  expect([got.size, Math.max(...got.values())]).toEqual([CREW, 1]);
  await expectCountsRight(id);
});

test('whoever opts out in mid-run gets nothing more, though it is claimed already; it is counted as upon it', async () => {
  const { ctx } = house;
  const last = crew.at(-1) as Inhabitant;
  const id = await draft({
    text: 'Run for {{ name }}',
    rules: { ...EMPTY_DEFINITION.rules, first: 0, optedOut: 1 },
  });
  await slowly(async () => {
    await started(id);
    await until('it is queued for them', async () =>
      ctx.store.broadcastRecipients.one({ broadcast_id: id, contact_id: last.id, state: 'queued' }),
    );
    await enterConsent(ctx, ada, { contactId: last.id, way: 'text', what: 'withdrawn', wording: 'No more' });
  });
  await state(id, 'finished');
  const got = await copies(({ name }) => `Run for ${name}`);
  expect([got.has(last.phone), got.size]).toEqual([false, CREW - 1]);
  const { progress, failed } = await page(id);
  expect([progress.optedOut, failed.map(({ code }) => code)]).toEqual([1, ['opted-out']]);
  await enterConsent(ctx, ada, { contactId: last.id, way: 'text', what: 'given', wording: 'Again' });
});

describe('first steps', () => {
  const rules = { ...EMPTY_DEFINITION.rules, first: 20, sample: 10 };

  test('go out alone and let the others follow when they arrived', async () => {
    const id = await draft({ text: 'Steps for {{ name }}', rules });
    await started(id);
    await state(id, 'finished');
    const audit = await house.ctx.store.audit.all({ subject_id: id, action: 'broadcast.went-on' });
    expect(audit.map(({ summary }) => summary)).toEqual([expect.stringContaining('The first 20')]);
  });

  test('hold it when they fail, and nobody else is written to', async () => {
    const { bench } = house;
    for (const { phone } of crew) await bench.setHandset(phone, { power: 'on' });
    await bench.faults({ brackwater: { creditGone: true } });
    const id = await draft({ text: 'Bad for {{ name }}', rules });
    await started(id);
    await state(id, 'held');
    await bench.faults({ brackwater: { creditGone: false } });
    const { held, progress } = await page(id);
    expect(held?.problem).toMatch(/outbound hop|failed/);
    // Of those that were not let go some may be found to be nobody's phone meanwhile, as the step before it tells late.
    const heldBack = (each: typeof progress) => each.planned + each.leftOut;
    expect(heldBack(progress)).toBe(CREW - 20);
    await cancelBroadcast(house.ctx, ada, id);
    await until('what was claimed is taken back', async () => (await page(id)).progress.waiting === 0);
    expect(heldBack((await page(id)).progress)).toBe(CREW - 20);
    const send = createSender(house.ctx);
    const { message } = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Proves it again' });
    await until(
      'the path is proven',
      async () => (await house.ctx.store.messages.one({ id: message.id }))?.state === 'delivered',
    );
    const { passing, progress: over } = await page(id);
    // Those that were claimed and not tried yet when it was cancelled were taken back, and did not fail for a passing cause.
    const takenBack = await house.ctx.store.messages.count({ origin_id: id, cause: 'broadcast-cancelled' });
    expect((passing ?? 0) + takenBack).toBe(over.failed);
    const again = await resendToFailed(house.ctx, ada, id);
    expect((await planned(again.id)).plan).toMatchObject({ people: passing, going: passing });
  });
});

test('what belongs to many yields: a reply in the middle of it overtakes all that waits', async () => {
  const { ctx } = house;
  const id = await draft({ text: 'Many for {{ name }}' });
  await slowly(async () => {
    await started(id);
    await until('it fills the line', async () => (await page(id)).progress.waiting > 40);
    const send = createSender(ctx);
    const { message } = await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'To one' });
    await until('it has left', async () => (await ctx.store.messages.one({ id: message.id }))?.provider_message_id);
  });
  const sent = (await house.bench.texts()).filter(({ direction }) => direction === 'out');
  const before = sent.slice(
    0,
    sent.findIndex(({ text }) => text === 'To one'),
  );
  expect(before.filter(({ text }) => text.startsWith('Many for')).length).toBeLessThan(CREW);
  await state(id, 'finished');
});

test('above what an owner set a second person approves it, and not whoever started it', async () => {
  const { ctx } = house;
  await saveBroadcastRules(ctx, ada, { ...RULES, people: '50' });
  const id = await draft({ text: 'Two pairs of eyes for {{ name }}' });
  await started(id);
  expect((await row(id)).state).toBe('approval');
  const { version } = await row(id);
  await expect(approveBroadcast(ctx, ada, id, version)).rejects.toThrow('second person');
  await approveBroadcast(ctx, ben, id, version);
  await state(id, 'finished');
  await saveBroadcastRules(ctx, ada, RULES);
});

test('who may write, start and approve is what an owner set', async () => {
  const { ctx } = house;
  const agent: Actor = { kind: 'user', id: 'usr_cleo', name: 'Cleo', role: 'agent' };
  const id = await draft({ text: 'By an agent, {{ name }}' });
  const { version } = await planned(id);
  await expect(startBroadcast(ctx, agent, id, { version })).rejects.toThrow(
    'Starting a broadcast is for administrators',
  );
  await saveBroadcastRules(ctx, ada, { ...RULES, start: 'agent', prepare: 'administrator' });
  await expect(createBroadcast(ctx, agent, 'No')).rejects.toThrow('Writing a broadcast is for administrators');
  await startBroadcast(ctx, agent, id, { version });
  await state(id, 'finished');
  await expect(saveBroadcastRules(ctx, ada, { ...RULES, quiet: 'Somewhere at night' })).rejects.toThrow(
    'is no country',
  );
  await expect(saveBroadcastRules(ctx, ben, RULES)).rejects.toThrow();
  await saveBroadcastRules(ctx, ada, RULES);
});

describe('a list', () => {
  test('with broken lines, numbers twice, national numbers: each gets its reason, fields are merged', async () => {
    const { ctx } = house;
    const id = await draft({
      text: 'Berth {{ berth }} for you',
      audience: { include: [{ by: 'list' }], exclude: [] },
    });
    const [one, two] = [numberOf(3), numberOf(4)];
    const table = [
      'Phone,Berth',
      `${one},A1`,
      `${two},A2`,
      `${one},A3`,
      ',A4',
      '12,A5',
      `${numberOf(5)},`,
      '07700 900206,A7',
    ];
    await giveList(ctx, ada, id, { table: table.join('\n'), version: (await row(id)).version });
    await saveBroadcast(ctx, ada, id, {
      definition: {
        ...(await row(id)).definition,
        message: { ...EMPTY_DEFINITION.message, text: 'Berth {{ Berth }} for you' },
      },
      version: (await row(id)).version,
    });
    const { plan } = await planned(id);
    expect(plan).toMatchObject({
      people: 7,
      going: 3,
      leftOut: { duplicate: 1, 'address-invalid': 2, 'value-missing': 1 },
    });
    await startBroadcast(ctx, ada, id, { version: (await row(id)).version });
    await state(id, 'finished');
    expect((await house.bench.received(two)).some(({ text }) => text === 'Berth A2 for you')).toBe(true);
  });

  test.each([
    ['without headings', '+447700900200\n+447700900201', 'No heading'],
    ['without anybody', 'phone,name', 'nobody in it'],
    ['with two columns of one name', 'phone,name,name\n+447700900200,a,b', 'Two columns'],
  ])('%s is refused', async (_, table, problem) => {
    const id = await draft();
    await expect(giveList(house.ctx, ada, id, { table, version: (await row(id)).version })).rejects.toThrow(problem);
  });
});

describe('an app', () => {
  interface Answer {
    id: string;
    state: string;
    plan: { going: number; leftOut: { code: string; people: number }[] } | null;
    progress: { delivered: number };
  }
  let key: string;
  const api = async <Body = Answer>(method: string, path: string, body?: object, headers = {}) => {
    const answer = await fetch(`${house.origin}/api/v1/broadcasts${path}`, {
      method,
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json', ...headers },
      body: body && JSON.stringify(body),
    });
    return { status: answer.status, body: (await answer.json()) as Body };
  };
  const order = {
    name: 'By an app',
    purpose: 'notice',
    text: 'From an app for {{ boat }}',
    to: { recipients: [0, 1, 2].map((index) => ({ to: numberOf(10 + index), fields: { boat: `Boat ${index}` } })) },
    channels: ['+442079460114'],
    quietHours: false,
  };

  test('orders one, reads its plan, starts it, and reads what became of each; its key makes it once', async () => {
    const { ctx } = house;
    const made = await createApiKey(ctx, SYSTEM, {
      appId: mossgate.appId,
      name: 'Broadcasts',
      scopes: ['broadcasts:read', 'broadcasts:write'],
    });
    key = made.key;
    const events = ['windgap.message.state', 'windgap.broadcast.started', 'windgap.broadcast.finished'];
    await ctx.store.write((unit) =>
      unit.subscriptions.change({ id: mossgate.subscriptionId }, { events: events as never }),
    );
    const first = await api('POST', '', order, { 'idempotency-key': 'stoppage-7' });
    expect([first.status, first.body.plan]).toEqual([202, null]);
    const again = await api('POST', '', order, { 'idempotency-key': 'stoppage-7' });
    expect(again.body.id).toBe(first.body.id);
    const other = await api('POST', '', { ...order, name: 'Another' }, { 'idempotency-key': 'stoppage-7' });
    expect(other.status).toBe(422);
    const { id } = first.body;
    const planned = await until('it is planned', async () => (await api('GET', `/${id}`)).body.plan);
    expect(planned).toMatchObject({ going: 3, leftOut: [] });
    // The engine may have begun, and be done, before the answer is read.
    expect(['scheduled', 'running', 'finished']).toContain((await api('POST', `/${id}/start`, {})).body.state);
    await until('it is over', async () => (await api('GET', `/${id}`)).body.progress.delivered === 3);
    const page = await api<{ recipients: { address: string; state: string }[]; next: number | null }>(
      'GET',
      `/${id}/recipients?limit=2`,
    );
    expect([page.body.recipients.map(({ address }) => address), page.body.next]).toEqual([
      [numberOf(10), numberOf(11)],
      2,
    ]);
    expect((await house.bench.received(numberOf(12))).some(({ text }) => text === 'From an app for Boat 2')).toBe(true);
    expect((await api('POST', `/${id}/start`, {})).status).toBe(409);
    const told = await until('the app is told that it is over', async () => {
      const { events: all } = await house.bench.lockbook();
      return all.some(({ type }) => type === 'windgap.broadcast.finished') ? all : undefined;
    });
    expect(told.some(({ type }) => type === 'windgap.broadcast.started')).toBe(true);
    const states = told.filter(
      ({ type, message }) => type === events[0] && message?.text.startsWith('From an app for'),
    );
    expect(new Set(states.map(({ message }) => message?.id)).size).toBe(3);
  });

  test('sees none that others made, and is told what is wrong at its field', async () => {
    const id = await draft();
    expect((await api('GET', `/${id}`)).status).toBe(404);
    expect((await api('POST', `/${id}/cancel`)).status).toBe(404);
    const { status, body } = await api<{ errors: { field: string }[] }>('POST', '', {
      ...order,
      channels: ['+442079460999'],
    });
    expect([status, body.errors[0]?.field]).toEqual([422, 'channels']);
  });
});

test('a send hook whose posts go to an audience begins a broadcast for each, once, which starts by itself or says why not', async () => {
  const { ctx } = house;
  const { id: audience } = await saveAudience(ctx, ada, {
    name: 'First three',
    conditions: { match: 'all', of: [{ on: 'tag', is: 'has', tag: 'three' }] },
  });
  const three = crew.slice(20, 23);
  await ctx.store.write((unit) => unit.contactTags.insert(three.map(({ id }) => ({ contact_id: id, tag: 'three' }))));
  const hook = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: 'Lock closed' });
  const message = {
    name: 'Lock closed',
    text: '{{ lock }} is closed until {{ until.day }}, {{ name }}.',
    phoneField: '',
    audience,
    sender: { by: 'channel' as const, channel: mossgate.channel.id },
  };
  await expect(
    changeHook(ctx, SYSTEM, hook.id, { ...message, sender: { by: 'thread', otherwise: mossgate.channel.id } }),
  ).rejects.toThrow('from one channel');
  await changeHook(ctx, SYSTEM, hook.id, message);
  await saveBroadcastRules(ctx, ada, { ...RULES, quiet: '' });
  const post = (key: string, record: object) =>
    fetch(hook.url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'idempotency-key': key },
      body: JSON.stringify(record),
    });
  const record = { lock: 'Tern', until: { day: 'Friday' } };
  expect([(await post('once', record)).status, (await post('once', record)).status]).toEqual([202, 202]);
  const begun = () => ctx.store.broadcasts.all({ created_by: mossgate.appId });
  const made = await until('it is begun', async () =>
    (await begun()).find(({ name }) => name.startsWith('Lock closed')),
  );
  await state(made.id, 'finished');
  await until('all have it', async () => (await page(made.id)).progress.delivered === 3);
  const got = await copies(({ name }) => `Tern is closed until Friday, ${name}.`, three);
  expect([got.size, Math.max(...got.values())]).toEqual([3, 1]);
  expect((await begun()).filter(({ name }) => name.startsWith('Lock closed'))).toHaveLength(1);
  const [posted] = await ctx.store.hookPosts.all({ hook_id: hook.id });
  expect([posted?.broadcast_id, posted?.run_id]).toEqual([made.id, null]);

  await post('lacking', { until: { day: 'Friday' } });
  const stuck = await until('the other one says why it did not start', async () =>
    (await begun()).find(({ plan_problem }) => plan_problem !== null),
  );
  expect([stuck.state, stuck.plan?.leftOut, stuck.plan_problem]).toEqual([
    'draft',
    { 'value-missing': 3 },
    expect.stringContaining('Nobody would get it'),
  ]);
  const { message: lacking } = stuck.definition;
  const mended = { ...stuck.definition, message: { ...lacking, text: 'A lock is closed, {{ name }}.' } };
  await saveBroadcast(ctx, ada, stuck.id, { definition: mended, version: stuck.version });
  expect((await planned(stuck.id)).plan?.going).toBe(3);
  expect((await row(stuck.id)).state).toBe('draft');

  for (let n = 0; n < 5; n++) await post(`wild ${n}`, { lock: `Lock ${n}`, until: { day: 'Friday' } });
  await until('the last of too many waits for somebody', async () =>
    (await begun()).find(({ plan_problem }) => plan_problem?.includes('within the last hour')),
  );
  expect((await begun()).filter(({ starts_itself }) => starts_itself === 2)).toHaveLength(5);
  await until('the others are over', async () =>
    (await begun()).every(({ starts_itself, state: now }) => starts_itself !== 2 || now === 'finished'),
  );
  await saveBroadcastRules(ctx, ada, RULES);
});

describe('what cannot be', () => {
  test('an audience that is empty, no text, no channel, a moment that is over', async () => {
    const { ctx } = house;
    const refused = async (changed: Parameters<typeof draft>[0]) => {
      const id = await draft(changed);
      return askForPlan(ctx, ada, id, (await row(id)).version);
    };
    await expect(refused({ audience: { include: [], exclude: [] } })).rejects.toThrow('nobody');
    await expect(refused({ text: '' })).rejects.toThrow('says nothing');
    await expect(refused({ channels: [] })).rejects.toThrow('no channel');
    await expect(refused({ when: { at: 'instant', instant: 1 } })).rejects.toThrow('is over');
    const id = await draft({ audience: { include: [tagged('nobody-has-this')], exclude: [] } });
    const { version } = await planned(id);
    await expect(startBroadcast(ctx, ada, id, { version })).rejects.toThrow('Nobody would get it');
  });

  test('a plan that is old, or of other words, starts nothing; an agent starts nothing at all', async () => {
    const { ctx } = house;
    const id = await draft();
    await expect(startBroadcast(ctx, ada, id, { version: 2 })).rejects.toThrow('not planned');
    const { version, definition } = await planned(id);
    await expect(
      startBroadcast(ctx, { kind: 'user', id: 'usr_c', name: 'Cleo', role: 'agent' }, id, { version }),
    ).rejects.toThrow('administrator');
    await saveBroadcast(ctx, ada, id, {
      definition: { ...definition, message: { ...definition.message, text: 'Other words' } },
      version,
    });
    await expect(startBroadcast(ctx, ada, id, { version })).rejects.toThrow('changed meanwhile');
    await planned(id);
    await ctx.store.write(async (unit) => {
      const now = await unit.broadcasts.one({ id });
      await unit.broadcasts.change({ id }, { plan: now?.plan && { ...now.plan, at: now.plan.at - 2 * 3_600_000 } });
    });
    await expect(startBroadcast(ctx, ada, id, { version: (await row(id)).version })).rejects.toThrow(
      'more than an hour old',
    );
  });

  test('a text that takes long to fill is not planned, and a zone nobody knows moves nobody', async () => {
    const { ctx } = house;
    const slow = await draft({
      text: '{% for a in (1..300) %}{% for b in (1..300) %}{{ b | times: a | minus: a | at_most: 0 | append: "x" | slice: 9 | default: "" }}{% endfor %}{% endfor %}',
    });
    await askForPlan(ctx, ada, slow, (await row(slow)).version);
    await until('it is refused', async () => (await row(slow)).plan_problem ?? (await row(slow)).plan);
    expect((await row(slow)).plan_problem).toContain('milliseconds for each person');
    await ctx.store.write((unit) =>
      unit.contacts.change({ id: crew[2]?.id }, { zone: 'Moon/Base', zone_from: 'import' }),
    );
    const id = await draft({ when: { at: 'local', day: '2026-01-01', time: '09:00', passed: 'at-once' } });
    expect((await planned(id)).plan).toMatchObject({ going: CREW, zones: { contact: 0, number: CREW } });
  });

  test('an account that is switched off holds it, and nobody is left out for that', async () => {
    const { ctx } = house;
    const account = (await ctx.store.channels.one({ id: mossgate.channel.id }))?.account_id ?? '';
    const id = await draft({ text: 'Off for {{ name }}' });
    await slowly(async () => {
      await started(id);
      await until('some have left', async () => (await page(id)).progress.delivered > 5);
      await setAccountDisabled(ctx, ada, account, true);
      await state(id, 'held');
    });
    expect((await page(id)).held?.problem).toContain('is switched off');
    expect((await page(id)).progress.leftOut).toBe(0);
    await setAccountDisabled(ctx, ada, account, false);
    await resumeBroadcast(ctx, ada, id, (await row(id)).version);
    await state(id, 'finished');
    const got = await copies(({ name }) => `Off for ${name}`);
    expect([got.size, Math.max(...got.values())]).toEqual([CREW, 1]);
  });

  test('one recipient whose row is damaged keeps nobody else from getting it', async () => {
    const { ctx } = house;
    const id = await draft({ text: 'Damage for {{ name }}' });
    const { version } = await planned(id);
    await ctx.store.write((unit) =>
      unit.execute(`UPDATE broadcast_recipients SET fields = '{' WHERE broadcast_id = :id AND seq = 7`, { id }),
    );
    await startBroadcast(ctx, ada, id, { version });
    await state(id, 'finished');
    const { recipients } = await listRecipients(ctx, ada, id, { reason: 'refused' });
    expect(recipients.map(({ seq }) => seq)).toEqual([7]);
    expect((await copies(({ name }) => `Damage for ${name}`)).size).toBe(CREW - 1);
  });
});
