/** The heartbeat to an address outside, and the page without a sign-in: while the engine works, and when it does not. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { examineNow } from '../src/operations/readiness/readiness';
import { beatNow, setHeartbeat, setStatusPage, statusPageSettings, viewHeartbeat } from '../src/operations/status';
import { connectMossgate } from './harness/mossgate';
import { end, type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const MINUTE = 60_000;

let house: Installation;
let watcher: Server;
let url = '';
let takes = true;
const beats: { state: string; name: string }[] = [];

beforeAll(async () => {
  house = await startInstallation();
  watcher = createServer(async (request, response) => {
    let body = '';
    for await (const chunk of request) body += chunk;
    if (request.url === '/watch/s3cret' && takes) beats.push(JSON.parse(body) as (typeof beats)[number]);
    response.writeHead(takes ? 200 : 503).end();
  });
  await new Promise<void>((resolve) => watcher.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(watcher.address() as AddressInfo).port}/watch/s3cret`;
  await connectMossgate(house);
});
afterAll(async () => {
  watcher.close();
  await house.stop();
});

test('it comes every few minutes with how things stand, and its address is kept sealed', async () => {
  const { ctx } = house;
  await expect(setHeartbeat(ctx, SYSTEM, { url: 'ftp://x', everyMinutes: '2' })).rejects.toThrow();
  await expect(setHeartbeat(ctx, SYSTEM, { url, everyMinutes: '0' })).rejects.toThrow();
  await setHeartbeat(ctx, SYSTEM, { url, everyMinutes: '2' });
  await until('the first came', () => beats.length === 1);
  expect(beats[0]).toMatchObject({
    type: 'windgap.heartbeat',
    state: expect.stringMatching(/^(well|at-risk|broken|not-known)$/),
  });
  await expect(setHeartbeat(ctx, SYSTEM, { url: '', everyMinutes: '90' })).rejects.toThrow();
  // Without an address the one that is set stays.
  await setHeartbeat(ctx, SYSTEM, { url: '', everyMinutes: '2' });
  expect(await viewHeartbeat(ctx, SYSTEM)).toMatchObject({ host: new URL(url).host, everyMinutes: 2 });
  await until('one comes at once', () => beats.length === 2);
  await house.bench.moveClock(2 * MINUTE + 5000);
  await until('the next came', () => beats.length === 3);
  expect(JSON.stringify(await ctx.store.settings.all())).not.toContain('s3cret');
  expect(JSON.stringify(await viewHeartbeat(ctx, SYSTEM))).not.toContain('s3cret');
});

test('one that is not taken is tried again, and said once that was so three times; taken again it is over', async () => {
  const { ctx } = house;
  takes = false;
  const said = async () => (await examineNow(ctx)).open.find(({ code }) => code === 'heartbeat-not-accepted');
  expect(await beatNow(ctx, SYSTEM)).toMatchObject({ failures: 1, said: 'it answered 503' });
  expect(await said()).toBeUndefined();
  await until('it failed three times', async () => {
    await house.bench.moveClock(31_000);
    return ((await viewHeartbeat(ctx, SYSTEM))?.last?.failures ?? 0) >= 3;
  });
  expect((await said())?.problem).toContain('503');
  takes = true;
  expect(await beatNow(ctx, SYSTEM)).toMatchObject({ failures: 0 });
  expect(await said()).toBeUndefined();
});

test('the page is there for whoever has its address, names channels where that was chosen, and is gone when it is', async () => {
  const { ctx, origin } = house;
  await setStatusPage(ctx, SYSTEM, { open: true, channels: true });
  const { address = '' } = (await statusPageSettings(ctx, SYSTEM)) ?? {};
  const page = await fetch(address);
  expect(page.status).toBe(200);
  expect(await page.text()).toContain('Harbour desk');
  const status = (await (await fetch(`${address}/json`)).json()) as Record<string, unknown>;
  expect(status).toMatchObject({ engine: true, channels: [{ name: 'Harbour desk' }] });
  expect((await fetch(`${origin}/status/${'A'.repeat(24)}/json`)).status).toBe(404);
  await setStatusPage(ctx, SYSTEM, { open: true, channels: false });
  expect((await fetch(`${address}/json`)).status).toBe(404);
  const next = (await statusPageSettings(ctx, SYSTEM))?.address ?? '';
  expect(await (await fetch(next)).text()).not.toContain('Harbour desk');
  await setStatusPage(ctx, SYSTEM, { open: false, channels: false });
  expect((await fetch(next)).status).toBe(404);
});

test('without an engine no heartbeat comes, and the page says so', async () => {
  const { ctx } = house;
  await setStatusPage(ctx, SYSTEM, { open: true, channels: false });
  const { address = '' } = (await statusPageSettings(ctx, SYSTEM)) ?? {};
  await end(house.engine);
  const before = beats.length;
  await house.bench.moveClock(10 * MINUTE);
  const status = await until('the page says so', async () => {
    const read = (await (await fetch(`${address}/json`)).json()) as { engine: boolean; status: string };
    return read.engine ? undefined : read;
  });
  expect(status.status).toBe('broken');
  expect(beats.length).toBe(before);
});
