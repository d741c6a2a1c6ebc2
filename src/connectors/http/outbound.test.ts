import { createServer, type Server } from 'node:http';
import { afterEach, describe, expect, test } from 'vitest';
import { isPublic, networkOf } from '../outside/network';
import { createOutboundHttp } from './outbound';

let server: Server | undefined;
afterEach(() => server?.close());

async function serve(answer: Parameters<typeof createServer>[1]): Promise<string> {
  const listening = createServer(answer as never);
  server = listening;
  await new Promise<void>((resolve) => listening.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(listening.address() as { port: number }).port}`;
}

const get = (url: string, timeoutMs = 500) => ({ method: 'GET', url, headers: {}, timeoutMs });

test.each([
  ['127.0.0.1', false],
  ['10.1.2.3', false],
  ['192.168.0.4', false],
  ['169.254.169.254', false],
  ['::1', false],
  ['::ffff:127.0.0.1', false],
  ['fd00::1', false],
  ['0.0.0.0', false],
  ['::127.0.0.1', false],
  ['::a9fe:a9fe', false],
  ['64:ff9b::a9fe:a9fe', false],
  ['2002:7f00:1::', false],
  ['168.63.129.16', false],
  ['::ffff:168.63.129.16', false],
  ['100.100.100.200', false],
  ['198.51.100.7', false],
  ['8.8.4.4', true],
  ['2001:4860:4860::8844', true],
])('%s is public: %s', (address, expected) => {
  expect(isPublic(address)).toBe(expected);
});

describe('an installation that does not allow private addresses', () => {
  const http = createOutboundHttp(networkOf({ allowPrivate: false }));

  test.each([
    'http://127.0.0.1:1/',
    'http://[::1]:1/',
    'http://localhost:1/',
    'http://0x7f.1:1/',
    'file:///etc/passwd',
  ])('does not call %s', async (url) => {
    await expect(http(get(url))).rejects.toMatchObject({ kind: 'not-allowed', mayHaveArrived: false });
  });
});

describe('what went wrong is told apart', () => {
  const http = createOutboundHttp(networkOf({ allowPrivate: true }));

  test('nobody there: it cannot have arrived', async () => {
    await expect(http(get('http://127.0.0.1:9/'))).rejects.toMatchObject({
      kind: 'unreachable',
      mayHaveArrived: false,
    });
  });

  test('no answer in time: it may have arrived', async () => {
    const url = await serve(() => undefined);
    await expect(http(get(url, 150))).rejects.toMatchObject({ kind: 'timeout', mayHaveArrived: true });
  });

  test('cut off before the answer: it may have arrived', async () => {
    const url = await serve((request) => request.socket.destroy());
    await expect(http({ ...get(url), method: 'POST', body: 'x' })).rejects.toMatchObject({
      kind: 'unreachable',
      mayHaveArrived: true,
    });
  });

  test('an endless answer is cut', async () => {
    const url = await serve((_, response) => {
      const more = () => response.write('x'.repeat(65_536), () => !response.destroyed && more());
      more();
    });
    await expect(http(get(url, 5000))).rejects.toMatchObject({ kind: 'too-large' });
  });

  test('a redirect is an answer, not an order', async () => {
    const url = await serve((_, response) => response.writeHead(302, { location: 'http://127.0.0.1:9/' }).end());
    expect((await http(get(url))).status).toBe(302);
  });
});
