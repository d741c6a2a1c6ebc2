/** Who is in, and out with the next request: sessions, roles, switching off, invitations and lost passwords. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { createApp } from '../src/operations/apps/apps';
import { createHook } from '../src/operations/apps/hooks/hooks';
import type { Actor } from '../src/operations/context/actor';
import { addTodo } from '../src/operations/conversations/todos';
import {
  askForLink,
  enterByCode,
  invitePerson,
  mailEntryCode,
  makeEntryCode,
  personOfCode,
} from '../src/operations/people/entryCodes';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import {
  addPerson,
  changePassword,
  changeRole,
  listPeople,
  switchPersonOff,
  switchPersonOn,
} from '../src/operations/people/people';
import type { Person } from '../src/operations/people/person';
import {
  ABSOLUTE,
  actorOf,
  beginSession,
  endOtherSessions,
  endSession,
  IDLE,
  listSessions,
  sessionOf,
} from '../src/operations/people/sessions';
import { signIn } from '../src/operations/people/signIn';
import { sendNotices } from './harness/mail';
import { connectMossgate, INES, postSigned, textIn } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const PASSWORD = 'towpath at low water';
const FROM = {
  way: 'password' as const,
  address: '198.51.100.7',
  browser: 'Mozilla/5.0 (X11; Linux x86_64) Chrome/140.0 Safari/537.36',
};
let house: Installation;
let owner: Actor;
let priya: Person;

beforeAll(async () => {
  house = await startInstallation();
  const maren = { name: 'Maren', email: 'maren@mossgate.example', password: PASSWORD };
  owner = actorOf(await createFirstOwner(house.ctx, maren));
  priya = await addPerson(house.ctx, owner, {
    name: 'Priya',
    email: 'priya@mossgate.example',
    password: PASSWORD,
    role: 'agent',
  });
});
afterAll(() => house.stop());

const begin = (person: Pick<Person, 'id' | 'name'>) => beginSession(house.ctx, person, FROM);
const page = async (token: string, path = '/route/conversations') =>
  (await fetch(`${house.origin}${path}`, { headers: { cookie: `windgap=${token}` }, redirect: 'manual' })).status;

test('a session that ended opens nothing, for whoever has a copy of the cookie', async () => {
  const { ctx } = house;
  const [one, two] = [await begin(priya), await begin(priya)];
  expect([await page(one.token), await page(two.token)]).toEqual([200, 200]);
  expect(await listSessions(ctx, actorOf(priya), one.id)).toMatchObject([
    { browser: 'Chrome 140 on X11', address: FROM.address },
    { browser: 'Chrome 140 on X11' },
  ]);
  await endSession(ctx, actorOf(priya), one.id, 'signed out');
  expect([await page(one.token), await page(two.token)]).toEqual([307, 200]);
  // Nobody ends what is another's.
  const theirs = await begin({ id: owner.id, name: owner.name });
  await expect(endSession(ctx, actorOf(priya), theirs.id, 'ended by hand')).rejects.toMatchObject({
    kind: 'not-found',
  });
  const three = await begin(priya);
  expect(await endOtherSessions(ctx, actorOf(priya), three.id)).toBe(1);
  expect([await page(two.token), await page(three.token), await page(theirs.token, '/')]).toEqual([307, 200, 200]);
});

test('one that is left alone ends, and none lasts longer than two weeks', async () => {
  const { ctx } = house;
  const at = (ms: number) => ({ ...ctx, now: () => ctx.now() + ms });
  const alone = await begin(priya);
  expect(await sessionOf(at(IDLE - 60_000), alone.token)).toMatchObject({ person: { name: 'Priya' } });
  expect(await sessionOf(at(3 * IDLE), alone.token)).toBeUndefined();
  expect((await ctx.store.sessions.one({ id: alone.id }))?.ended_why).toBe('left alone');
  const busy = await begin(priya);
  for (let hour = 12; hour * 3_600_000 < ABSOLUTE; hour += 12)
    expect(await sessionOf(at(hour * 3_600_000), busy.token), `${hour}`).toBeDefined();
  expect(await sessionOf(at(ABSOLUTE + 1000), busy.token)).toBeUndefined();
  for (const odd of ['', 'x', 'a'.repeat(500), `${busy.token}x`]) expect(await sessionOf(ctx, odd)).toBeUndefined();
});

test('a part of a page that is asked for after the session ended is refused, and leads nowhere else', async () => {
  const { ctx } = house;
  const { id, token } = await begin(priya);
  const redraw = async (more: Record<string, string> = {}) => {
    const headers = { cookie: `windgap=${token}`, rsc: '1', ...more };
    const answer = await fetch(`${house.origin}/route/conversations`, { headers });
    await answer.arrayBuffer();
    return answer.status;
  };
  expect(await redraw()).toBe(200);
  await endSession(ctx, actorOf(priya), id, 'signed out');
  // Nobody says of themselves when they came.
  expect([await redraw(), await redraw({ 'x-windgap-arrived': '0' })]).toEqual([401, 401]);
  expect(await page(token)).toBe(307);
  const forged = await fetch(`${house.origin}/route/conversations`, {
    headers: { cookie: `windgap=${token}`, 'x-windgap-arrived': '0' },
    redirect: 'manual',
  });
  expect(forged.status).toBe(307);
  // What was let in before is drawn to its end.
  const ended = (await ctx.store.sessions.one({ id }))?.ended_at ?? 0;
  expect((await sessionOf(ctx, token, ended - 1))?.person.name).toBe('Priya');
  expect(await sessionOf(ctx, token, ended)).toBeUndefined();
});

test('another role counts with the next request, and somebody always owns the installation', async () => {
  const { ctx } = house;
  const { token } = await begin(priya);
  await changeRole(ctx, owner, priya.id, 'viewer');
  expect(await page(token)).toBe(307);
  expect(await sessionOf(ctx, (await begin(priya)).token)).toMatchObject({ person: { role: 'viewer' } });
  await changeRole(ctx, owner, priya.id, 'agent');
  await expect(changeRole(ctx, owner, owner.id, 'viewer')).rejects.toThrow(/only owner/);
  await expect(switchPersonOff(ctx, owner, owner.id)).rejects.toThrow(/themselves/);
  const admin: Actor = { kind: 'user', id: 'usr_a', name: 'Ada', role: 'administrator' };
  for (const work of [
    () => changeRole(ctx, admin, priya.id, 'owner'),
    () => switchPersonOff(ctx, admin, priya.id),
    () => switchPersonOn(ctx, admin, priya.id),
    () => makeEntryCode(ctx, admin, priya.id),
    () => invitePerson(ctx, admin, { name: 'X', email: 'x@mossgate.example', role: 'owner' }),
  ])
    await expect(work()).rejects.toMatchObject({ kind: 'forbidden' });
});

test('whoever is switched off is out within a second, streams and all, and leaves their conversations to somebody', async () => {
  const { ctx } = house;
  const mossgate = await connectMossgate(house);
  const arlo = await addPerson(ctx, owner, {
    name: 'Arlo',
    email: 'arlo@mossgate.example',
    password: PASSWORD,
    role: 'agent',
  });
  const body = textIn('bwt_left', INES, mossgate.channel.address, 'For Priya');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(202);
  const { conversation_id: id } = await until('it is in', () => ctx.store.messages.one({ text: 'For Priya' }));
  await ctx.store.write((unit) => unit.conversations.change({ id }, { assigned_to: priya.id }));

  const { token } = await begin(priya);
  const code = await makeEntryCode(ctx, owner, priya.id);
  const live = await fetch(`${house.origin}/live?after=0`, { headers: { cookie: `windgap=${token}` } });
  expect(live.status).toBe(200);
  const over = (async () => {
    for await (const _ of live.body as unknown as AsyncIterable<Uint8Array>);
    return 'over';
  })();
  expect(await switchPersonOff(ctx, owner, priya.id, arlo.id)).toMatchObject({ conversations: 1 });
  expect(await page(token)).toBe(307);
  expect(await over).toBe('over');
  expect((await ctx.store.conversations.one({ id }))?.assigned_to).toBe(arlo.id);
  await expect(signIn(ctx, { email: priya.email, password: PASSWORD, from: '198.51.100.9' })).rejects.toThrow(
    /do not fit/,
  );
  expect(await personOfCode(ctx, code.code)).toBeUndefined();
  expect((await listPeople(ctx, owner)).find(({ id: each }) => each === priya.id)?.offSince).not.toBeNull();
  await switchPersonOn(ctx, owner, priya.id);
  // The old session stays ended.
  expect(await page(token)).toBe(307);
  expect((await signIn(ctx, { email: priya.email, password: PASSWORD, from: '198.51.100.9' })).name).toBe('Priya');
});

test('an invitation is used once, by whoever has it, and ends by itself', async () => {
  const { ctx } = house;
  const email = 'hilde@mossgate.example';
  const first = await invitePerson(ctx, owner, { name: 'Hilde', email, role: 'agent' });
  // Without a password of their own nothing is right, an empty one least of all.
  for (const password of ['', PASSWORD])
    await expect(signIn(ctx, { email, password, from: '198.51.100.10' })).rejects.toThrow(/do not fit/);
  const second = await makeEntryCode(ctx, owner, first.userId);
  expect(await personOfCode(ctx, first.code)).toBeUndefined();
  await expect(enterByCode(ctx, second.code, 'short')).rejects.toThrow(/shorter than 15/);
  const chosen = 'heron under the bridge';
  const both = await Promise.allSettled([enterByCode(ctx, second.code, chosen), enterByCode(ctx, second.code, chosen)]);
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect((await signIn(ctx, { email, password: chosen, from: '198.51.100.10' })).name).toBe('Hilde');

  const late = await makeEntryCode(ctx, owner, first.userId);
  const tomorrow = { ...ctx, now: () => ctx.now() + 86_400_001 };
  await expect(enterByCode(tomorrow, late.code, chosen)).rejects.toThrow(/run out/);
  // Nothing of a code is kept that opens anything.
  const kept = JSON.stringify([await ctx.store.entryCodes.all(), await ctx.store.audit.all()]);
  for (const { code } of [first, second, late]) expect(kept).not.toContain(code);
});

test('a new password signs everybody out who used the old one', async () => {
  const { ctx } = house;
  const [here, elsewhere] = [await begin(priya), await begin(priya)];
  const next = 'lantern on the lock gate';
  const change = (present: string, to = next) =>
    changePassword(ctx, actorOf(priya), { present, next: to, here: here.id });
  await expect(change('wrong')).rejects.toThrow(/not your present password/);
  await expect(change(PASSWORD, 'short')).rejects.toThrow(/shorter than 15/);
  await change(PASSWORD);
  expect([await page(here.token), await page(elsewhere.token)]).toEqual([200, 307]);
  await expect(signIn(ctx, { email: priya.email, password: PASSWORD, from: '198.51.100.11' })).rejects.toThrow();
  const done = await ctx.store.audit.all({ subject_id: priya.id });
  expect(done.map(({ action }) => action)).toEqual(
    expect.arrayContaining(['person.role', 'person.switched-off', 'person.switched-on', 'person.password']),
  );
});

test('whoever is switched off leaves to-dos, too, and somebody hears what they set up', async () => {
  const { ctx } = house;
  const [bo, heir] = await Promise.all(
    ['Bo', 'Cato'].map((name) =>
      addPerson(ctx, owner, { name, email: `${name}@mossgate.example`, password: PASSWORD, role: 'administrator' }),
    ),
  );
  if (!bo || !heir) throw new Error('nobody');
  await addTodo(ctx, owner, { title: 'Ring the lock keeper', assignedTo: bo.id });
  const { id: appId } = await createApp(ctx, actorOf(bo), { name: 'Gauges', description: '' });
  await createHook(ctx, actorOf(bo), { appId, name: 'High water' });
  await createHook(ctx, owner, { appId, name: 'Low water' });
  expect(await switchPersonOff(ctx, owner, bo.id, heir.id)).toEqual({
    conversations: 0,
    todos: 1,
    automations: ['High water'],
  });
  const mine = (await ctx.store.todos.all({ assigned_to: heir.id })).map(({ title }) => title);
  expect(mine).toEqual(['Ring the lock keeper', 'See to what Bo set up: High water']);
});

test('a link is mailed, opens once, and asking for one tells nothing of who is here', async () => {
  const { ctx } = house;
  await expect(askForLink(ctx, 'priya@mossgate.example', '198.51.100.30')).rejects.toThrow(/No mail is set up/);
  await sendNotices(house, 'maren@mossgate.example', owner);
  const mails = async () =>
    (
      (await (await fetch(`${house.env.WINDGAP_BENCH_URL}/fennick/mails`)).json()) as { to: string; text: string }[]
    ).map((mail) => JSON.stringify(mail));
  const codes = await ctx.store.entryCodes.count();
  await askForLink(ctx, 'nobody@mossgate.example', '198.51.100.30');
  await askForLink(ctx, ' PRIYA@mossgate.example', '198.51.100.30');
  const mail = await until('it was mailed', async () => (await mails()).find((each) => /enter#/.test(each)));
  expect(await ctx.store.entryCodes.count()).toBe(codes + 1);
  const code = /enter#([\w-]+)/.exec(mail)?.[1] ?? '';
  expect((await personOfCode(ctx, code))?.name).toBe('Priya');
  await enterByCode(ctx, code, 'otters under the footbridge');
  await expect(enterByCode(ctx, code, 'otters under the footbridge')).rejects.toThrow(/was used/);
  // It stands nowhere here but as what it hashes to.
  const kept = JSON.stringify([
    await ctx.store.audit.all(),
    await ctx.store.runs.all(),
    await ctx.store.exchanges.all(),
  ]);
  expect(kept).not.toContain(code);
  for (let more = 0; more < 2; more++) await askForLink(ctx, 'priya@mossgate.example', '198.51.100.31');
  await expect(askForLink(ctx, 'priya@mossgate.example', '198.51.100.32')).rejects.toThrow(/Too many/);

  const invited = await invitePerson(ctx, owner, { name: 'Wren', email: 'wren@mossgate.example', role: 'viewer' });
  expect(await mailEntryCode(ctx, owner, invited)).toBeUndefined();
  expect(
    (await mails()).filter((each) => each.includes(invited.code) && each.includes('wren@mossgate.example')),
  ).toHaveLength(1);
});
