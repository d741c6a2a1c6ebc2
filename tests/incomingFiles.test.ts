/** Files that come as a link of the provider's: fetched once, soon, within limits; what cannot be fetched says why. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connectMossgate, INES, type Mossgate, postSigned } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const PICTURE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

let house: Installation;
let mossgate: Mossgate;
let provider: Server;
let base: string;
/** Requests by path, as the provider of the files saw them. */
const asked = new Map<string, number>();

const ANSWERS: Record<string, (times: number) => [status: number, body?: Buffer, headers?: Record<string, string>]> = {
  '/gate.png': () => [200, PICTURE, { 'content-type': 'text/plain' }],
  '/moved.png': () => [302, undefined, { location: '/gate.png' }],
  '/round.png': () => [302, undefined, { location: '/round.png' }],
  '/ended.png': () => [410],
  '/closed.png': () => [403],
  '/gone.png': () => [404],
  '/later.png': (times) => (times < 3 ? [500] : [200, PICTURE]),
  '/empty.png': () => [200, Buffer.alloc(0)],
  '/setup.exe': () => [200, Buffer.from('MZ and more')],
  '/large.png': () => [200, Buffer.alloc(20_000_001)],
  '/script.png': () => [200, Buffer.from('<script>alert(1)</script>')],
};

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  provider = createServer((request, response) => {
    const path = request.url ?? '';
    const times = (asked.get(path) ?? 0) + 1;
    asked.set(path, times);
    if (path === '/hangs.png') return;
    const [status, body, headers] = ANSWERS[path]?.(times) ?? [404];
    response.writeHead(status, headers).end(body);
  });
  await new Promise<void>((resolve) => provider.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(provider.address() as AddressInfo).port}`;
});
afterAll(async () => {
  provider.closeAllConnections();
  provider.close();
  await house.stop();
});

let count = 0;
async function receive(address: string) {
  const id = `file-${++count}`;
  const event = {
    kind: 'text-in',
    id,
    from: INES,
    to: mossgate.channel.address,
    text: `Look ${count}`,
    parts: 1,
    at: new Date().toISOString(),
  };
  const body = JSON.stringify({ events: [{ ...event, file: { address, type: 'image/png' } }] });
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body, house.ctx.now())).toBeLessThan(300);
  return until('it is in', () => house.ctx.store.messages.one({ provider_message_id: id }));
}
/** How the first file of a message ended. */
async function ended(id: string, move = 0) {
  return until('its file is here or is not', async () => {
    if (move) await house.bench.moveClock(move);
    const row = await house.ctx.store.incomingFiles.one({ message_id: id });
    return row?.state === 'due' ? undefined : house.ctx.store.messages.one({ id });
  });
}
const fileOf = async (path: string, move = 0) => (await ended((await receive(`${base}${path}`)).id, move)).files?.[0];

test('a file is fetched once and handed on at our own address, as what it is and not as what was said', async () => {
  const message = await receive(`${base}/gate.png`);
  // Asked for at once, as an app does that was just told: the answer waits for it.
  const answer = await fetch(message.media?.url ?? '');
  expect(answer.status).toBe(200);
  expect(answer.headers.get('content-type')).toBe('image/png');
  expect(Buffer.from(await answer.arrayBuffer()).equals(PICTURE)).toBe(true);
  await (await fetch(message.media?.url ?? '')).arrayBuffer();
  expect(asked.get('/gate.png')).toBe(1);
  expect((await ended(message.id)).files).toEqual([
    { name: 'gate.png', type: 'image/png', bytes: PICTURE.length, id: expect.any(String), url: message.media?.url },
  ]);
});

test('a link that leads on is followed, and one that leads round is not', async () => {
  expect(await fileOf('/moved.png')).toMatchObject({ type: 'image/png', bytes: PICTURE.length });
  expect((await fileOf('/round.png'))?.refused).toContain('without end');
});

test('what has ended, is closed, or is nothing to keep says so on the message and at its address', async () => {
  const refusals = {
    '/ended.png': 'ended (410)',
    '/closed.png': 'may not be opened',
    '/gone.png': '404',
    '/empty.png': 'empty',
    '/setup.exe': 'program',
    '/large.png': 'over 20 MB',
  };
  for (const [path, words] of Object.entries(refusals)) {
    const message = await receive(`${base}${path}`);
    const { files, media } = await ended(message.id);
    expect(files?.[0]?.refused, path).toContain(words);
    expect(media, path).toBeNull();
    const row = await house.ctx.store.incomingFiles.one({ message_id: message.id });
    const answer = await fetch(`${house.origin}/media/${row?.id}`);
    expect([answer.status, await answer.text()], path).toEqual([410, expect.stringContaining(words)]);
  }
});

test('a link that nobody answers delays no other, and one nobody listens at says so in the end', async () => {
  const slow = await receive(`${base}/hangs.png`);
  await until('it is asked for', () => asked.get('/hangs.png'));
  expect(await fileOf('/gate.png')).toMatchObject({ type: 'image/png' });
  expect((await house.ctx.store.incomingFiles.one({ message_id: slow.id }))?.state).toBe('due');
  // Given up after the last pause, hours later by the clock.
  const nobody = await receive('http://127.0.0.1:1/gate.png');
  expect((await ended(nobody.id, 600_000)).files?.[0]?.refused).toContain('could not be fetched');
});

test('what fails in passing is tried again, and a script is kept as what opens nowhere', async () => {
  expect(await fileOf('/later.png', 40_000)).toMatchObject({ type: 'image/png' });
  expect(asked.get('/later.png')).toBe(3);
  const script = await fileOf('/script.png');
  const answer = await fetch(script?.url ?? '');
  expect(answer.headers.get('content-type')).toBe('application/octet-stream');
  expect(answer.headers.get('content-disposition')).toBe('attachment');
});
