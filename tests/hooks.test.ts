/** Send hooks over the wire: what apps post, what reaches the handset, and what each mistake is called. */
import { Webhook } from 'standardwebhooks';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { HookInput } from '../src/operations/apps/hooks/hookMessage';
import { getHook } from '../src/operations/apps/hooks/hookPages';
import { changeHook, createHook, guardHook, switchHook } from '../src/operations/apps/hooks/hooks';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
});
afterAll(() => installation.stop());

interface Told {
  id: string;
  status: string;
  detail: string;
  errors?: { field: string; code: string; fix: string; mend: string }[];
}

async function post(url: string, body: object | string, headers: Record<string, string> = {}) {
  const text = typeof body === 'string' ? body : JSON.stringify(body);
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: text,
  });
  return { status: answer.status, headers: answer.headers, body: (await answer.json()) as Told };
}

async function hook(name: string, input: Partial<HookInput> = {}) {
  const { id, url } = await createHook(installation.ctx, SYSTEM, { appId: mossgate.appId, name });
  await changeHook(installation.ctx, SYSTEM, id, {
    name,
    text: 'Passage at {{ lock }} is confirmed, {{ guest.name }}.',
    phoneField: 'guest.mobile',
    country: 'GB',
    sender: { by: 'channel', channel: mossgate.channel.id },
    ...input,
  });
  return { id, url };
}

const RECORD = { lock: 'North', guest: { name: 'Ines', mobile: '07700 900123' } };
const view = (id: string) => getHook(installation.ctx, SYSTEM, id);
const received = async () => (await installation.bench.received(INES)).map((entry) => entry.text);

test('nothing is set up: the first post is kept as the sample; then the same record is a text on a handset', async () => {
  const { ctx } = installation;
  const { id, url } = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: 'Passage confirmed' });
  expect(url).toContain('/hooks/passage-confirmed-');
  expect(await post(url, RECORD)).toMatchObject({ status: 202, body: { status: expect.stringContaining('sample') } });
  expect((await view(id)).samples).toEqual([RECORD]);
  expect((await view(id)).summary.proofs).toMatchObject([{ hop: 'call-in', state: 'unproven' }]);

  await changeHook(ctx, SYSTEM, id, {
    name: 'Passage confirmed',
    text: 'Passage at {{ lock }} is confirmed, {{ guest.name }}.',
    phoneField: 'guest.mobile',
    country: 'GB',
    sender: { by: 'channel', channel: mossgate.channel.id },
    tags: ['passage'],
  });
  expect((await view(id)).examination).toMatchObject({ findings: [], good: 1, of: 1 });
  const answer = await post(url, RECORD);
  expect(answer.status).toBe(202);
  await until('“Passage at North is confirmed, Ines.” is on the handset', async () =>
    (await received()).includes('Passage at North is confirmed, Ines.'),
  );
  const after = await until('the run is done', async () => {
    const now = await view(id);
    return now.posts[0]?.run?.state === 'done' && now.summary.proofs[0]?.state === 'proven' ? now : undefined;
  });
  expect(after.summary.proofs).toMatchObject([{ hop: 'call-in', state: 'proven' }]);
  const message = await ctx.store.messages.one({ id: after.posts[0]?.messageId ?? '' });
  expect(message).toMatchObject({ origin_kind: 'app', origin_name: 'Lockbook', tags: ['passage'] });
});

test('a form does as well as JSON; the same post again is answered alike and sent once', async () => {
  const { id, url } = await hook('By form', { text: 'Form {{ post["Boat name"] }}', phoneField: 'Mobile' });
  const form = 'Boat+name=Heron&Mobile=%2B447700900123';
  const headers = { 'content-type': 'application/x-www-form-urlencoded', 'idempotency-key': 'form-1' };
  const [one, two, three] = await Promise.all([1, 2, 3].map(() => post(url, form, headers)));
  expect([one?.status, two?.status, three?.status]).toEqual([202, 202, 202]);
  expect(new Set([one?.body.id, two?.body.id, three?.body.id]).size).toBe(1);
  expect([one, two, three].filter((answer) => answer?.headers.get('windgap-replayed'))).toHaveLength(2);
  await until('“Form Heron” is on the handset', async () => (await received()).includes('Form Heron'));
  expect((await received()).filter((text) => text === 'Form Heron')).toHaveLength(1);
  expect((await view(id)).posts).toHaveLength(1);
});

describe('each mistake is named in the answer and at the hook, and nothing is sent', () => {
  test.each<[string, Partial<HookInput>, object, string, string]>([
    [
      'a label for a field',
      { text: 'At {{ Lock_Name }}' },
      { ...RECORD, lockName: 'N' },
      'text field-label',
      'Use lockName.',
    ],
    ['another letter case', { text: 'At {{ Lock }}' }, RECORD, 'text field-letter-case', 'Use lock.'],
    ['an empty field', {}, { ...RECORD, lock: '' }, 'text field-empty', 'Have the app fill it'],
    ['the phone in another field', { phoneField: 'lock' }, RECORD, 'phoneField phone-in-other-field', 'guest.mobile'],
    [
      'a national number without a country',
      { country: undefined },
      RECORD,
      'phoneField phone-national',
      'Choose the country',
    ],
    [
      'a record without a phone',
      {},
      { lock: 'N', guest: { name: 'A', mobile: '' } },
      'phoneField record-without-phone',
      'Add the number',
    ],
  ])('%s', async (name, input, record, code, remedy) => {
    const { id, url } = await hook(name, input);
    const { status, body } = await post(url, record);
    expect(status).toBe(422);
    expect(body.errors?.map((error) => `${error.field} ${error.code}`)).toEqual([code]);
    expect(body.errors?.[0]).toMatchObject({ fix: expect.stringContaining(remedy), mend: body.errors?.[0]?.fix });
    const { summary, examination, posts } = await view(id);
    expect(summary.proofs).toMatchObject([{ state: 'broken', cause: 'hook-record-refused' }]);
    expect(examination?.findings).toMatchObject([{ severity: 'error' }]);
    expect(posts[0]).toMatchObject({ post: { state: 'refused' }, run: undefined });
  });

  test('switched off: 410 with the reason, visible; on again it works', async () => {
    const { id, url } = await hook('Switched off');
    await switchHook(installation.ctx, SYSTEM, id, false, 'the lock is being rebuilt');
    const { status, body } = await post(url, RECORD);
    expect(status).toBe(410);
    expect(body.detail).toContain('the lock is being rebuilt');
    expect((await view(id)).summary.proofs).toMatchObject([{ state: 'broken', cause: 'hook-off' }]);
    await switchHook(installation.ctx, SYSTEM, id, true);
    expect((await post(url, RECORD)).status).toBe(202);
  });

  test('the address of another hook: by its name, and by the fields that come', async () => {
    const locks = await hook('Lock given');
    const berths = await hook('Berth given', { text: 'Berth {{ berth }}', phoneField: 'phone' });
    const berth = { berth: 4, phone: '07700 900123', until: 'May' };
    expect((await post(locks.url, RECORD)).status).toBe(202);
    expect((await post(berths.url, berth)).status).toBe(202);
    // What was taken proves the call when it has been worked through, and not after the next one is refused.
    await until('both are proven', async () => {
      const proofs = await Promise.all([locks.id, berths.id].map(async (id) => (await view(id)).summary.proofs));
      return proofs.every(([proof]) => proof?.state === 'proven');
    });
    const mixed = locks.url.replace('lock-given', 'berth-given');
    expect(await post(mixed, RECORD)).toMatchObject({
      status: 409,
      body: { detail: expect.stringContaining('lock-given') },
    });
    expect((await view(locks.id)).summary.proofs).toMatchObject([{ cause: 'hook-name-mismatch' }]);
    const pasted = await post(locks.url, berth);
    expect(pasted).toMatchObject({ status: 422, body: { detail: expect.stringContaining('“Berth given”') } });
    expect((await view(locks.id)).posts[0]?.post.cause).toBe('hook-other-shape');
  });

  test('a token, or a signature, when the hook asks for one', async () => {
    const { ctx } = installation;
    const { id, url } = await hook('Guarded');
    const { secret: token } = await guardHook(ctx, SYSTEM, id, 'token');
    expect((await post(url, RECORD)).status).toBe(401);
    expect((await post(url, RECORD, { authorization: 'Bearer wrong' })).status).toBe(401);
    expect((await view(id)).summary.proofs).toMatchObject([{ cause: 'hook-guard-refused' }]);
    expect((await post(url, RECORD, { authorization: `Bearer ${token}` })).status).toBe(202);

    const { secret } = await guardHook(ctx, SYSTEM, id, 'signature');
    const body = JSON.stringify(RECORD);
    const signed = (at: Date) => ({
      'webhook-id': `evt-${at.getTime()}`,
      'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
      'webhook-signature': new Webhook(secret as string).sign(`evt-${at.getTime()}`, at, body),
    });
    expect((await post(url, body, signed(new Date()))).status).toBe(202);
    expect((await post(url, `${body} `, signed(new Date(Date.now() + 1)))).status).toBe(401);
    expect((await post(url, body, signed(new Date(Date.now() - 6 * 60_000)))).status).toBe(401);
    expect(JSON.stringify((await view(id)).posts)).not.toContain(token);
  });

  test('what is no record, too large, or not posted', async () => {
    const { id, url } = await hook('Unreadable');
    expect(await post(url, '{"lock":')).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('not whole JSON') },
    });
    expect((await post(url, { note: 'x'.repeat(300 * 1024) })).status).toBe(413);
    expect((await fetch(url)).status).toBe(405);
    expect((await fetch(`${url}x`, { method: 'POST', body: '{}' })).status).toBe(404);
    expect((await view(id)).posts.map(({ post }) => post.answerStatus)).toEqual([405, 413, 422]);
  });
});

test('what was read of a post is kept with it; of what is no record, the beginning', async () => {
  const { ctx } = installation;
  const { id, url } = await hook('Kept');
  await post(url, RECORD);
  const form = { 'content-type': 'application/x-www-form-urlencoded' };
  expect(await post(url, 'a&'.repeat(80_000), form)).toMatchObject({
    status: 422,
    body: { detail: expect.stringContaining('more than 1000 fields') },
  });
  const rows = await ctx.store.hookPosts.all({ hook_id: id }, { order: [['id', 'ASC']] });
  expect(rows.map(({ record, body }) => [record, body.length])).toEqual([
    [RECORD, JSON.stringify(RECORD).length],
    [null, 16 * 1024],
  ]);
  // The page shows what was kept; that the body would read otherwise by now changes nothing.
  await ctx.store.write((unit) => unit.hookPosts.change({ hook_id: id, state: 'taken' }, { body: '{"other":1}' }));
  expect((await view(id)).samples).toEqual([RECORD]);
});

test('the sender: the number the record’s owner has, the one the person last wrote with, or a name nobody has', async () => {
  const { ctx } = installation;
  const owner = await hook('Owner', { text: 'Owner {{ lock }}', sender: { by: 'field', field: 'keeper' } });
  await post(owner.url, { ...RECORD, keeper: 'Harbour desk' });
  await until('“Owner North” is on the handset', async () => (await received()).includes('Owner North'));
  await post(owner.url, { ...RECORD, keeper: 'Nobody' });
  const failed = await until('the run has failed', async () => {
    const now = await view(owner.id);
    // The page reads marks and posts one after the other.
    return now.posts[0]?.run?.state === 'failed' && now.summary.proofs[0]?.state === 'broken' ? now : undefined;
  });
  expect(failed.posts[0]?.run?.results.at(-1)?.finding?.problem).toContain('No channel sends from Nobody');
  expect(failed.summary.proofs).toMatchObject([{ state: 'broken', cause: 'automation-failed' }]);
  const thread = await hook('Thread', {
    text: 'Thread {{ lock }}',
    sender: { by: 'thread', otherwise: mossgate.channel.id },
  });
  await post(thread.url, RECORD);
  await until('“Thread North” is on the handset', async () => (await received()).includes('Thread North'));
  expect((await ctx.store.runs.all({ source_id: thread.id })).map((run) => run.state)).toEqual(['done']);
});

test('an engine killed between the answer and the message loses and doubles nothing', async () => {
  const { id, url } = await hook('Through a crash', { text: 'Crash {{ n }}' });
  const posts: Promise<unknown>[] = [];
  for (let n = 0; n < 60; n++) {
    posts.push(post(url, { ...RECORD, n }));
    if (n % 20 === 10) {
      installation.engine?.kill('SIGKILL');
      await installation.startEngine();
    }
  }
  await Promise.all(posts);
  await until(
    'all runs are done',
    async () => (await installation.ctx.store.runs.count({ source_id: id, state: 'done' })) === 60,
  );
  await until(
    'all texts are there',
    async () => new Set((await received()).filter((text) => text.startsWith('Crash '))).size === 60,
  );
  expect((await received()).filter((text) => text.startsWith('Crash '))).toHaveLength(60);
});

test('the address opens the hook, so only administrators see it whole, and no post shows it', async () => {
  const { id, url } = await hook('Not for all eyes');
  await post(url, RECORD);
  const token = url.slice(url.lastIndexOf('-') + 1);
  const viewer = { kind: 'user', id: 'usr_1', name: 'Vera', role: 'viewer' } as const;
  expect((await view(id)).summary.url).toBe(url);
  expect(JSON.stringify((await view(id)).posts)).not.toContain(token);
  expect(JSON.stringify(await getHook(installation.ctx, viewer, id))).not.toContain(token);
});

test('posts by whoever does not prove that they are the app fill no disk', async () => {
  const { ctx } = installation;
  const { id, url } = await hook('Flooded');
  await guardHook(ctx, SYSTEM, id, 'token');
  const headers = { 'content-type': 'application/json', authorization: 'Bearer invented' };
  const body = JSON.stringify({ note: 'x'.repeat(190_000) });
  for (let n = 0; n < 60; n++) expect((await fetch(url, { method: 'POST', headers, body })).status).toBe(401);
  const kept = await ctx.store.hookPosts.all({ hook_id: id }, { order: [['id', 'ASC']] });
  expect(kept.reduce((sum, row) => sum + row.body.length, 0)).toBeLessThan(5_000_000);
  expect(kept.length).toBeLessThan(30);
  expect(kept.at(-1)).toMatchObject({ body: '', reason: expect.stringContaining('no more are kept within this hour') });
});
