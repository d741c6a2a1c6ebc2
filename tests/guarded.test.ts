/** What stands open to whom, tried on the built application: every page, address, action and API operation it has. */
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { SCOPES, SYSTEM } from '../src/operations/context/actor';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { addPerson } from '../src/operations/people/people';
import { API, type Operation } from '../src/web/api/catalogue';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, ROOT, startInstallation } from './harness/processes';
import { cookieOf } from './harness/session';

const AGENT = { name: 'Priya', email: 'priya@mossgate.example', role: 'agent' as const };
let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation({ engine: false });
  mossgate = await connectMossgate(house);
  await createFirstOwner(house.ctx, {
    name: 'Maren',
    email: 'maren@mossgate.example',
    password: 'towpath at low water',
  });
});
afterAll(() => house.stop());

const ask = (path: string, init: RequestInit = {}) => fetch(`${house.origin}${path}`, { redirect: 'manual', ...init });

/** Pages and addresses of the application, with something in place of what the address carries. */
const addresses = readdirSync(join(ROOT, 'src/app'), { recursive: true, encoding: 'utf8' })
  .filter((file) => /(?:^|\/)(?:page\.tsx|route\.ts)$/.test(file))
  .map((file) => ({
    file,
    path: `/${file
      .replace(/\/?(?:page\.tsx|route\.ts)$/, '')
      .split('/')
      .filter((part) => !/^\(.*\)$/.test(part))
      .map((part) => (part.startsWith('[') ? 'msg_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' : part))
      .join('/')}`,
  }));

/** What anybody may open: to get in, for machines that prove themselves, and what holds nothing of anybody. */
const OPEN =
  /^\/(?:sign-in(?:\/.*)?|enter|welcome|health|status\/.*|schemas\/.*|media\/.*|in\/.*|hooks\/.*|calls\/.*|chat\/.*|leave\/.*|api\/.*)$/;

test('no page and no address opens to whoever is not signed in', async () => {
  const closed = addresses.filter(({ path }) => !OPEN.test(path));
  expect(closed.length).toBeGreaterThan(40);
  const answers = await Promise.all(
    closed.map(async ({ path, file }) => {
      const answer = await ask(path);
      const away =
        [303, 307].includes(answer.status) && /\/sign-in(?:\?next=|$)/.test(answer.headers.get('location') ?? '');
      const refused = [401, 405].includes(answer.status);
      return away || refused ? undefined : `${file}: ${answer.status} ${(await answer.text()).slice(0, 80)}`;
    }),
  );
  expect(answers.filter(Boolean)).toEqual([]);
});

/** Every action of the build, with a page that has it. */
const actions = Object.entries(
  (
    JSON.parse(readFileSync(join(ROOT, '.next/server/server-reference-manifest.json'), 'utf8')) as {
      node: Record<string, { workers: Record<string, unknown>; exportedName?: string }>;
    }
  ).node,
).map(([id, { workers, exportedName }]) => ({ id, name: exportedName ?? id, pages: Object.keys(workers) }));

/** What is there to get in. */
const BEFORE = [
  'signInAction',
  'signOutAction',
  'askForLinkAction',
  'askPasskeyAction',
  'passkeySignInAction',
  'codeAction',
  'askSecondPasskeyAction',
  'secondPasskeyAction',
  'offerPasskeyAction',
  'enrolPasskeyAction',
  'offerCodesAction',
  'enrolCodesAction',
  'firstRecoveryCodesAction',
  'goOnAction',
  'createOwnerAction',
  'enterAction',
];

test('no action is done for whoever is not signed in', async () => {
  expect(actions.length).toBeGreaterThan(130);
  const audit = await house.ctx.store.audit.count();
  const odd: string[] = [];
  for (const { id, name, pages } of actions) {
    const page = pages.find((each) => !each.includes('[')) ?? pages[0] ?? '';
    const path = `/${page
      .replace(/^app\//, '')
      .replace(/\/?page$/, '')
      .split('/')
      .filter((part) => !/^\(.*\)$/.test(part))
      .map((part) => (part.startsWith('[') ? 'x' : part))
      .join('/')}`;
    const answer = await ask(path, {
      method: 'POST',
      headers: { 'next-action': id, 'content-type': 'text/plain;charset=UTF-8', origin: house.origin },
      body: '[]',
    });
    const away = (answer.headers.get('x-action-redirect') ?? answer.headers.get('location') ?? '').startsWith(
      '/sign-in',
    );
    const asked = /"why":"signed-out"|windgap-signed-out/.test(await answer.text());
    if (!away && !asked && !BEFORE.includes(name)) odd.push(`${name} on ${path}: ${answer.status}`);
  }
  expect(odd).toEqual([]);
  expect(await house.ctx.store.audit.count()).toBe(audit);
});

describe('the API', () => {
  const operations = Object.values(API) as Operation[];
  const call = (operation: Operation, key?: string) =>
    ask(`/api/v1${operation.path.replace('{id}', 'msg_01JD0V7M3T8Q4W5X6Y7Z8A9B0C')}`, {
      method: operation.method.toUpperCase(),
      headers: { 'content-type': 'application/json', ...(key ? { authorization: `Bearer ${key}` } : {}) },
      ...(operation.body ? { body: JSON.stringify(operation.example ?? {}) } : {}),
    });

  test('each operation needs a key, and the scope it says', async () => {
    const keys = new Map<string, string>();
    for (const scope of SCOPES) {
      const others = SCOPES.filter((each) => each !== scope);
      keys.set(
        scope,
        (await createApiKey(house.ctx, SYSTEM, { appId: mossgate.appId, name: scope, scopes: others })).key,
      );
    }
    expect(operations.length).toBeGreaterThan(25);
    for (const operation of operations) {
      expect((await call(operation)).status, `${operation.id} without a key`).toBe(401);
      if (!operation.scope) continue;
      const without = await call(operation, keys.get(operation.scope));
      expect(without.status, `${operation.id} without ${operation.scope}`).toBe(403);
    }
    expect(operations.filter(({ scope }) => !scope).map(({ id }) => id)).toEqual(['measureText', 'normaliseAddress']);
  });

  test('answers about people are kept by nobody on the way', async () => {
    for (const path of ['/messages', '/contacts', '/conversations', '/webhooks'])
      expect(
        (await ask(`/api/v1${path}`, { headers: { authorization: `Bearer ${mossgate.apiKey}` } })).headers.get(
          'cache-control',
        ),
      ).toBe('no-store');
    const page = await ask('/sign-in');
    expect(page.headers.get('cache-control')).toContain('no-store');
    expect(page.headers.get('content-security-policy')).toMatch(/script-src 'self' 'nonce-[^']+' 'strict-dynamic'/);
  });

  test('a file by anything but a web address is refused', async () => {
    for (const url of [
      'javascript:alert(1)',
      'data:text/html,x',
      'file:///etc/passwd',
      'ftp://mossgate.example/a.png',
    ]) {
      const answer = await ask('/api/v1/messages', {
        method: 'POST',
        headers: { authorization: `Bearer ${mossgate.apiKey}`, 'content-type': 'application/json' },
        body: JSON.stringify({ to: INES, from: mossgate.channel.id, media: { url, type: 'image/png' } }),
      });
      expect(answer.status, url).toBe(422);
    }
  });
});

describe('files', () => {
  const upload = async (path: string, bytes: number, cookie?: string) => {
    const form = new FormData();
    const head = Buffer.from('89504e470d0a1a0a0000000d494844520000000100000001080600000', 'hex');
    form.append('file', new File([head, new Uint8Array(bytes)], path.includes('imports') ? 'people.csv' : 'plan.png'));
    form.append('country', 'GB');
    const answer = await ask(path, {
      method: 'POST',
      headers: { origin: house.origin, ...(cookie ? { cookie } : {}) },
      body: form,
    });
    return { status: answer.status, text: await answer.text() };
  };

  test('are taken as large as is promised, from whoever may', async () => {
    const cookie = await cookieOf(house.ctx, 'maren@mossgate.example');
    for (const [path, megabytes, said] of [
      ['/media', 12, /"id"/],
      ['/media', 21, /over 20 MB/],
      ['/compose/contacts/imports/upload', 40, /./],
    ] as const) {
      const { status, text } = await upload(path, megabytes * 1_000_000, cookie);
      expect(status, `${path} ${megabytes} MB: ${text.slice(0, 200)}`).toBeLessThan(500);
      expect(text).toMatch(said);
    }
    const { id } = JSON.parse((await upload('/media', 100, cookie)).text) as { id: string };
    // Nobody guesses one from another.
    expect(id.length).toBeGreaterThan(20);
    const file = await ask(`/media/${id}`);
    expect(file.headers.get('content-security-policy')).toBe("default-src 'none'; sandbox");
  });

  test('are not read from whoever may not', async () => {
    expect([303, 307]).toContain((await upload('/media', 1000)).status);
    await addPerson(house.ctx, SYSTEM, { ...AGENT, password: 'towpath at high water' });
    const cookie = await cookieOf(house.ctx, AGENT.email);
    const { text } = await upload('/compose/contacts/imports/upload', 1000, cookie);
    expect(text).toMatch(/administrator/);
  });
});

test('everything says what kind it is, and is not guessed at', async () => {
  for (const path of [
    '/sign-in',
    '/health',
    '/api/v1/messages',
    '/chat/widget.js',
    '/in/nobody',
    '/hooks/nobody',
    '/nowhere',
  ])
    expect((await ask(path)).headers.get('x-content-type-options'), path).toBe('nosniff');
});

test('a page of somebody else cannot have a browser act here, whatever host it names', async () => {
  const [action] = actions;
  const strangers: Record<string, string>[] = [
    { origin: 'https://elsewhere.example' },
    { origin: 'https://elsewhere.example', 'x-forwarded-host': 'elsewhere.example' },
    { origin: 'null' },
    { 'sec-fetch-site': 'cross-site' },
    { 'sec-fetch-site': 'same-site', origin: house.origin },
  ];
  for (const headers of strangers)
    for (const path of ['/sign-in', '/compose/contacts/imports/upload', '/compose/templates']) {
      const answer = await ask(path, {
        method: 'POST',
        headers: { 'next-action': action?.id ?? '', 'content-type': 'text/plain', ...headers },
        body: '[]',
      });
      expect(answer.status, `${path} ${JSON.stringify(headers)}`).toBe(403);
    }
});

test('nobody else on the machine reads the data', () => {
  const { dataFolder } = house.ctx.config;
  const modes = [
    dataFolder,
    ...['windgap.db', 'windgap.db-wal', 'sealing.key'].map((name) => join(dataFolder, name)),
  ].map((path) => (statSync(path).mode & 0o777).toString(8));
  expect(modes).toEqual(['700', '600', '600', '600']);
});
