/** A connected installation: account, channel with its address handed over, and Lockbook on the route. */
import { createHmac } from 'node:crypto';
import { connectProvider } from '../../src/operations/accounts/accounts';
import { createApiKey } from '../../src/operations/apps/apiKeys';
import { createApp } from '../../src/operations/apps/apps';
import { changeHook, createHook } from '../../src/operations/apps/hooks/hooks';
import { subscribe } from '../../src/operations/apps/webhooks/subscriptions';
import { handOverForMe, openChannel } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import { inboundUrl } from '../../src/operations/context/channelAddresses';
import { routeToApp } from '../../src/operations/routes/routes';
import type { ChannelRow } from '../../src/store/schema/rows';
import type { Installation } from './processes';

export const INES = '+447700900123';
export const TOMAS = '+46701740612';

export interface Mossgate {
  accountId: string;
  channel: ChannelRow;
  inboundUrl: string;
  secret: string;
  appId: string;
  subscriptionId: string;
  apiKey: string;
}

export async function connectMossgate(
  installation: Installation,
  connector = 'brackwater',
  pace?: number,
): Promise<Mossgate> {
  const { ctx, world, bench, origin } = installation;
  const remote = world.accounts[0] as Installation['world']['accounts'][number];
  const account = await connectProvider(ctx, SYSTEM, {
    connector,
    name: 'Main account',
    credentials: credentialsOf(installation),
  });
  const number = (await ctx.store.numbers.all({ account_id: account.id })).find(
    (row) => row.address === '+442079460114',
  );
  const { id } = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Harbour desk' });
  if (pace) await ctx.store.write((unit) => unit.channels.change({ id }, { pace }));
  await handOverForMe(ctx, SYSTEM, id);
  const app = await createApp(ctx, SYSTEM, { name: 'Lockbook', description: 'Passage bookings' });
  const { id: subscriptionId, secret } = await subscribe(ctx, SYSTEM, {
    appId: app.id,
    url: `http://127.0.0.1:${world.ports.lockbook}/hooks/windgap`,
  });
  const { key } = await createApiKey(ctx, SYSTEM, { appId: app.id, name: 'Booking server' });
  await routeToApp(ctx, SYSTEM, app.id, true);
  await bench.lockbook({ secret, apiUrl: `${origin}/api/v1`, apiKey: key });
  const channel = await ctx.store.channels.one({ id });
  if (!channel) throw new Error('The channel just opened is gone');
  return {
    accountId: account.id,
    channel,
    inboundUrl: inboundUrl(ctx, channel),
    secret: remote.secret,
    appId: app.id,
    subscriptionId,
    apiKey: key,
  };
}

export function credentialsOf({ world }: Installation, index = 0) {
  const remote = world.accounts[index] as Installation['world']['accounts'][number];
  return { apiAddress: `http://127.0.0.1:${world.ports.brackwater}/v2`, accountId: remote.id, secret: remote.secret };
}

/** Headers as Brackwater would sign this body. */
export function signedHeaders(secret: string, body: string, at = Date.now()): Record<string, string> {
  const time = String(Math.floor(at / 1000));
  const signature = `h1=${createHmac('sha256', secret).update(`${time}.${body}`).digest('hex')}`;
  return { 'content-type': 'application/json', 'x-brackwater-time': time, 'x-brackwater-signature': signature };
}

/** The body of one inbound text. */
export function textIn(id: string, from: string, to: string, text: string): string {
  return JSON.stringify({ events: [{ kind: 'text-in', id, from, to, text, parts: 1, at: new Date().toISOString() }] });
}

/** `at`: by the clock of the installation, where that was moved. */
export async function postSigned(url: string, secret: string, body: string, at = Date.now()): Promise<number> {
  const answer = await fetch(url, { method: 'POST', headers: signedHeaders(secret, body, at), body });
  await answer.arrayBuffer();
  return answer.status;
}

export async function callApi(
  installation: Installation,
  key: string,
  method: string,
  path: string,
  body?: object,
  headers: Record<string, string> = {},
) {
  const answer = await fetch(`${installation.origin}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json', ...headers },
    body: body && JSON.stringify(body),
  });
  return {
    status: answer.status,
    headers: answer.headers,
    body: (await answer.json()) as Record<string, unknown> & { id: string; state: string },
  };
}

/** A send hook that texts the `words` of a record to its `phone`. */
export async function noticeHook(
  { ctx }: Pick<Installation, 'ctx'>,
  appId: string,
  channel: string,
): Promise<{ id: string; url: string }> {
  const { id, url } = await createHook(ctx, SYSTEM, { appId, name: 'Notices' });
  await changeHook(ctx, SYSTEM, id, {
    name: 'Notices',
    text: '{{ words }}',
    phoneField: 'phone',
    country: 'GB',
    sender: { by: 'channel', channel },
  });
  return { id, url };
}
