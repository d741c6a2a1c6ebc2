/** What calls by apps and to apps cost: API sends against an empty route handler, webhooks against a bare client loop. */
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createOutboundHttp } from '../src/connectors/http/outbound';
import { networkOf } from '../src/connectors/outside/network';
import { signWebhook } from '../src/core/signing/standardWebhooks';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { MOST_PER_APP } from '../src/operations/apps/webhooks/deliveryJobs';
import {
  changeSubscription,
  pauseSubscription,
  resumeSubscription,
} from '../src/operations/apps/webhooks/subscriptions';
import { emitMessageEvents } from '../src/operations/apps/webhooks/webhookEvents';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate } from '../tests/harness/mossgate';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { load, median } from './load';

const ROUNDS = 5;
const CALLS = 1000;
const AT_ONCE = 32;
const EVENTS = 6000;
const CONVERSATIONS = 2000;

export async function apps(): Promise<void> {
  const installation = await startInstallation({
    engine: false,
    perSecond: 10_000,
    env: { WINDGAP_CALLS_PER_MINUTE: '1000000' },
  });
  try {
    const mossgate = await connectMossgate(installation);
    await sends(installation, mossgate);
    await webhooks(installation, mossgate);
  } finally {
    await installation.stop();
  }
}

/** Sends with an idempotency key, each stored before it is answered, against the same server's route handler that does nothing. */
async function sends({ origin, ctx }: Installation, { appId }: Mossgate): Promise<void> {
  const { key } = await createApiKey(ctx, SYSTEM, { appId, name: 'Bench' });
  let number = 0;
  const call = (url: string) => () => {
    const index = number++;
    const headers = {
      authorization: `Bearer ${key}`,
      'content-type': 'application/json',
      'idempotency-key': `bench-${index}`,
    };
    return { url, headers, body: JSON.stringify({ to: INES, text: `Your passage is booked, number ${index}.` }) };
  };
  const [empty, send] = [call(`${origin}/health`), call(`${origin}/api/v1/messages`)];
  const measure = async () => ({
    empty: await load(CALLS, AT_ONCE, 204, empty),
    send: await load(CALLS, AT_ONCE, 202, send),
  });
  await measure();
  const pairs: Awaited<ReturnType<typeof measure>>[] = [];
  for (let round = 0; round < ROUNDS; round++) pairs.push(await measure());
  report(
    'API sends',
    pairs.map((pair) => pair.send),
    'an empty route handler',
    pairs.map((pair) => pair.empty),
  );
}

/** Events of many conversations to an app that takes them at once, against the same client posting the same bodies. */
async function webhooks(installation: Installation, mossgate: Mossgate): Promise<void> {
  const { ctx } = installation;
  const taker = createServer((request, answer) => {
    request.resume();
    request.on('end', () => answer.writeHead(204).end());
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => taker.once('listening', resolve));
  const url = `http://127.0.0.1:${(taker.address() as AddressInfo).port}/hooks`;
  try {
    const subscription = await ctx.store.subscriptions.one({ app_id: mossgate.appId });
    const id = subscription?.id ?? '';
    await changeSubscription(ctx, SYSTEM, id, { url });
    // What the sends before left in the outbox is not to be sent now.
    await ctx.store.write((unit) => unit.outbox.remove({}));
    await installation.startEngine();
    const [ours, bare]: [number[], number[]] = [[], []];
    for (let round = -1; round < ROUNDS; round++) {
      const body = await queueEvents(installation, id);
      const looped = await bareLoop(url, body);
      await resumeSubscription(ctx, SYSTEM, id);
      const began = performance.now();
      await until(
        'all are taken',
        async () => (await ctx.store.deliveries.count({ subscription_id: id, state: ['due', 'leased'] })) === 0,
      );
      const rate = (EVENTS * 1000) / (performance.now() - began);
      // The first round warms up.
      if (round < 0) continue;
      ours.push(rate);
      bare.push(looped);
    }
    report('Webhooks', ours, `a bare loop of the same client, ${MOST_PER_APP} at once`, bare);
  } finally {
    taker.close();
    taker.closeAllConnections();
  }
}

/** Queues events behind a pause. Returns the body of one. */
async function queueEvents({ ctx }: Installation, subscriptionId: string): Promise<string> {
  await pauseSubscription(ctx, SYSTEM, subscriptionId);
  const [sample] = await ctx.store.messages.all(undefined, { limit: 1 });
  if (!sample) throw new Error('Messages were sent before');
  const at = ctx.now();
  const rows = Array.from({ length: EVENTS }, (_, index) => ({
    ...sample,
    direction: 'in' as const,
    state: 'received' as const,
    conversation_id: `cnv_bench${index % CONVERSATIONS}`,
  }));
  await ctx.store.write((unit) => emitMessageEvents(unit, 'windgap.message.received', rows, at));
  const delivery = await ctx.store.deliveries.one({ subscription_id: subscriptionId, state: 'due' });
  return delivery?.body ?? '';
}

async function bareLoop(url: string, body: string): Promise<number> {
  const http = createOutboundHttp(networkOf({ allowPrivate: true }));
  const secret = `whsec_${Buffer.alloc(24).toString('base64')}`;
  let next = 0;
  const worker = async () => {
    while (next < EVENTS) {
      const headers = {
        'content-type': 'application/cloudevents+json; charset=utf-8',
        ...signWebhook(`evt_${next++}`, Date.now(), body, [secret]),
      };
      await http({ method: 'POST', url, headers, body, timeoutMs: 15_000 });
    }
  };
  const began = performance.now();
  await Promise.all(Array.from({ length: MOST_PER_APP }, worker));
  return (EVENTS * 1000) / (performance.now() - began);
}

function report(what: string, ours: readonly number[], yardstick: string, theirs: readonly number[]): void {
  const ratios = ours.map((rate, round) => rate / (theirs[round] as number));
  console.log(
    `${what}: ${median(ours).toFixed(0)}/s against ${yardstick}, ${median(theirs).toFixed(0)}/s: ratio ${median(ratios).toFixed(2)} (rounds ${ratios.map((ratio) => ratio.toFixed(2)).join(' ')})`,
  );
}
