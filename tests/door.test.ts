/** The public address through a proxy that does what proxies do: five things that may be wrong with it are told apart, and no working channel is accused. */
import { execFile } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { promisify } from 'node:util';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { checkAccount } from '../src/operations/accounts/accounts';
import { getChannel } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { knock } from '../src/operations/door/knock';
import { curlFor, viewDoor } from '../src/operations/door/view';
import { examineNow } from '../src/operations/readiness/readiness';
import { createSealer } from '../src/store/sealing';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { end, type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';
import { json, type Middle, page, standBetween } from './unforeseen/middle';

let house: Installation;
let proxy: Middle;
let mossgate: Mossgate;

beforeAll(async () => {
  proxy = await standBetween();
  house = await startInstallation({ env: { WINDGAP_PUBLIC_URL: proxy.url } });
  proxy.leadTo(house.origin);
  mossgate = await connectMossgate(house);
});
afterAll(async () => {
  await house.stop();
  await proxy.close();
});

const codes = async () =>
  (await examineNow(house.ctx)).open
    .filter(({ subject }) => subject.id === 'door')
    .map(({ code, severity }) => [code, severity]);

test('through a proxy that passes all on it is open', async () => {
  expect(await knock(house.ctx)).toMatchObject({ state: 'open', said: '' });
  expect(await codes()).toEqual([]);
});

test.each([
  ['unreachable', 'door-unreachable', async () => 'hang up' as const],
  ['answered-by-other', 'door-answered-by-other', async () => page(503, 'Back soon', '<h1>We are tidying up</h1>')],
  [
    'another-installation',
    'door-another-installation',
    async () =>
      json(200, { door: 'windgap', sealed: createSealer(randomBytes(32)).seal({ heard: { seal: 'missing' } }) }),
  ],
  [
    'header-lost',
    'door-header-lost',
    async (request, on) =>
      on({ headers: Object.fromEntries(Object.entries(request.headers).filter(([name]) => !name.startsWith('x-'))) }),
  ],
  ['body-altered', 'door-body-altered', async (request, on) => on({ body: request.body.replace('&', '&amp;') })],
] as const satisfies [string, string, Parameters<Middle['become']>[0]][])(
  '%s is told from the others, once it is so twice',
  async (state, code, conduct) => {
    proxy.become((request, on) => (request.path.startsWith('/in/door') ? conduct(request, on) : on()));
    expect((await knock(house.ctx)).state).toBe(state);
    // The engine knocks as well, and may have begun before the proxy changed.
    await until('it is told', async () => {
      await knock(house.ctx);
      return (await codes())[0]?.[0] === code;
    });
    // A provider's post that is taken shows that the way from outside is open all the same.
    await house.bench.type(INES, mossgate.channel.address, `Through ${state}`);
    await until('it is in', () => house.ctx.store.messages.one({ text: `Through ${state}` }));
    expect(await codes()).toEqual([[code, 'notice']]);
    proxy.become();
    await until(
      'it is open again',
      async () => (await knock(house.ctx)).state === 'open' && (await codes()).length === 0,
    );
  },
);

test('the line for another machine runs as it is and is noted as from outside', async () => {
  const { ctx } = house;
  expect((await viewDoor(ctx, SYSTEM)).fromOutside).toBeUndefined();
  const { stdout } = await promisify(execFile)('bash', ['-c', curlFor(ctx, SYSTEM)]);
  expect(JSON.parse(stdout)).toMatchObject({ door: 'windgap', said: expect.stringContaining('came unchanged') });
  expect((await viewDoor(ctx, SYSTEM)).fromOutside?.at).toBeGreaterThan(0);
  // What nobody sealed is answered and noted nowhere.
  const before = (await viewDoor(ctx, SYSTEM)).fromOutside;
  const stranger = await fetch(`${house.origin}/in/door`, { method: 'POST', headers: { 'x-windgap-door': 'mine' } });
  expect(await stranger.json()).toMatchObject({ said: expect.stringContaining('No seal') });
  expect((await viewDoor(ctx, SYSTEM)).fromOutside).toEqual(before);
  expect((await fetch(`${house.origin}/in/door/receipts`, { method: 'POST' })).status).toBe(404);
});

test('an installation told a wrong public address neither accuses a channel that works nor offers to break it', async () => {
  const { ctx } = house;
  // The engine knows the right address, and knocks as well.
  await end(house.engine);
  const told = ctx.config as { publicUrl: string };
  const right = told.publicUrl;
  told.publicUrl = 'http://127.0.0.1:9';
  await until('it is told', async () => {
    await knock(ctx);
    return (await codes())[0]?.[0] === 'door-unreachable';
  });
  await checkAccount(ctx, SYSTEM, mossgate.accountId);
  const { open } = await examineNow(ctx);
  const { findings } = await getChannel(ctx, SYSTEM, mossgate.channel.id);
  told.publicUrl = right;
  expect(open.map(({ code }) => code)).toContain('door-unreachable');
  expect(open.map(({ code }) => code)).not.toContain('address-not-ours');
  expect(findings.find(({ code }) => code === 'address-other-origin')).not.toHaveProperty('action', 'set-address');
});
