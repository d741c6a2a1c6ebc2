/** Webhook deliveries against apps in every kind of trouble: real database and wires, time at the test's will. */
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Webhook } from 'standardwebhooks';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { systemClock } from '../src/clock/clock';
import type { CauseCode } from '../src/core/delivery/causes';
import { startDeliverer } from '../src/engine/deliverer';
import { createApp } from '../src/operations/apps/apps';
import {
  claimDeliveries,
  deliver,
  nextDeliveryDueAt,
  releaseDeliveries,
} from '../src/operations/apps/webhooks/deliveries';
import { MOST_PER_APP } from '../src/operations/apps/webhooks/deliveryJobs';
import { redeliver, redeliverRange } from '../src/operations/apps/webhooks/deliveryLog';
import { recordDeliveries } from '../src/operations/apps/webhooks/deliveryOutcomes';
import {
  changeSubscription,
  endSubscription,
  pauseSubscription,
  replaceSecret,
  resumeSubscription,
  sendTestEvent,
  subscribe,
} from '../src/operations/apps/webhooks/subscriptions';
import { emitMessageEvents } from '../src/operations/apps/webhooks/webhookEvents';
import { SYSTEM } from '../src/operations/context/actor';
import { type AppContext, configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import type { MessageRow } from '../src/store/schema/rows';
import { until } from './harness/until';

const SECOND = 1000;
const HOUR = 3_600_000;

let folder: string;
let ctx: AppContext;
let clock: number;
let app: Server;
let url: string;
let answer: (request: IncomingMessage, response: ServerResponse, body: string) => void;
let took: { id: string; subject: string; text: string; headers: Record<string, string>; body: string }[];

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'windgap-webhooks-'));
  const env = {
    WINDGAP_DATA: join(folder, 'data'),
    WINDGAP_ALLOW_PRIVATE: '1',
    WINDGAP_LOG: 'fatal',
    NODE_ENV: 'test',
  };
  clock = Date.now();
  ctx = { ...(await openAppContext(configFromEnvironment(env as NodeJS.ProcessEnv), 'test')), now: () => clock };
  took = [];
  answer = (_, response) => response.writeHead(204).end();
  app = createServer((request, response) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk) => chunks.push(chunk));
    request.on('end', () => {
      const body = Buffer.concat(chunks).toString('utf8');
      const event = JSON.parse(body) as { id: string; subject: string; data: { text?: string } };
      response.once('finish', () => {
        if (response.statusCode < 300)
          took.push({
            id: event.id,
            subject: event.subject,
            text: event.data.text ?? '',
            headers: request.headers as Record<string, string>,
            body,
          });
      });
      answer(request, response, body);
    });
  });
  await new Promise<void>((resolve) => app.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(app.address() as AddressInfo).port}/hooks`;
});

afterEach(async () => {
  app.closeAllConnections();
  await new Promise((resolve) => app.close(resolve));
  ctx.engineWakeUp.close();
  await ctx.store.close();
  rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
});

async function subscribed(more: Partial<Parameters<typeof subscribe>[2]> = {}) {
  const { id: appId } = await createApp(ctx, SYSTEM, { name: 'Lockbook', description: '' });
  return { appId, ...(await subscribe(ctx, SYSTEM, { appId, url, ...more })) };
}

/** So many received messages, dealt out to conversations in turn, each with its number as text. */
async function emit(count: number, conversations = count, more: Partial<MessageRow> = {}) {
  const rows = Array.from({ length: count }, (_, index) => received(index, index % conversations, more));
  await ctx.store.write((unit) => emitMessageEvents(unit, 'windgap.message.received', rows, clock));
}

function received(number: number, conversation: number, more: Partial<MessageRow>): MessageRow {
  return {
    id: `msg_${number}`,
    direction: 'in',
    conversation_id: `cnv_${conversation}`,
    contact_id: 'con_1',
    channel_id: 'chn_1',
    sender: '+447700900123',
    recipient: '+442079460114',
    tags: null,
    template: null,
    text: String(number),
    media: null,
    encoding: 'GSM-7',
    parts: 1,
    state: 'received',
    state_at: clock,
    state_rank: 0,
    cause: null,
    provider_message_id: null,
    price_micros: null,
    price_currency: null,
    origin_kind: 'provider',
    origin_id: null,
    origin_name: null,
    in_reply_to: null,
    inbound_request_id: null,
    subject: null,
    automatic: null,
    files: null,
    valid_until: null,
    fallback_to: null,
    instead_of: null,
    continued_by: null,
    choices: null,
    created_at: clock,
    ...more,
  };
}

/** The engine's rounds, with the clock moved on to whatever is due next, until nothing is due before `end`. */
async function work(end = Number.POSITIVE_INFINITY): Promise<{ calls: number; mostAtOnce: number }> {
  let [calls, mostAtOnce] = [0, 0];
  for (;;) {
    const due = await nextDeliveryDueAt(ctx);
    if (due === undefined || due > end) return { calls, mostAtOnce };
    clock = Math.max(clock, due);
    const jobs = await claimDeliveries(ctx, 'test', () => 0);
    if (jobs.length === 0) {
      // What is due waits behind an earlier one of its conversation; the engine looks again every second.
      const [{ next = null } = {}] = await ctx.store.select<{ next: number | null }>(
        `SELECT min(due_at) AS next FROM webhook_deliveries WHERE state = 'due' AND due_at > :clock`,
        { clock },
      );
      if (next === null || next > end) return { calls, mostAtOnce };
      clock = next;
      continue;
    }
    while (jobs.length > 0) {
      const now = jobs.splice(0, MOST_PER_APP);
      calls += now.length;
      mostAtOnce = Math.max(mostAtOnce, now.length);
      const reports = await Promise.all(now.map((job) => deliver(ctx, job)));
      clock += 20;
      await recordDeliveries(ctx, reports);
      if (reports.some(({ cause }) => cause)) await releaseDeliveries(ctx, jobs.splice(0));
    }
  }
}

describe('an app that is down for an hour with 5,000 events waiting', () => {
  test('gets each of them once, in order per conversation, without a stampede', async () => {
    const { id } = await subscribed();
    const down = clock + HOUR;
    answer = (_, response) => response.writeHead(clock < down ? 503 : 204).end();
    await emit(5000, 250);
    const began = clock;
    const during = await work(down - 1);
    expect(took).toHaveLength(0);
    expect(during.calls).toBeLessThan(60);
    expect((await ctx.store.subscriptions.one({ id }))?.breaker?.open).toBeDefined();
    expect((await ctx.store.proofs.all({ hop: 'call-out' })).map((proof) => proof.state)).toEqual(['broken']);

    const back = await work();
    expect(took.map(({ id: event }) => event).length).toBe(5000);
    expect(new Set(took.map(({ id: event }) => event)).size).toBe(5000);
    const last = new Map<string, number>();
    for (const { body, text } of took) {
      const conversation = (JSON.parse(body) as { data: { conversationId: string } }).data.conversationId;
      expect(Number(text)).toBeGreaterThan(last.get(conversation) ?? -1);
      last.set(conversation, Number(text));
    }
    expect(back.mostAtOnce).toBeLessThanOrEqual(24);
    console.log(
      `${during.calls} calls in the hour it was away; back ${Math.round((clock - began - HOUR) / SECOND)} s after it, ${back.calls} calls, at most ${back.mostAtOnce} at once`,
    );
    expect(await ctx.store.deliveries.count({ state: 'delivered' })).toBe(5000);
    expect((await ctx.store.proofs.all({ hop: 'call-out' })).map((proof) => proof.state)).toEqual(['proven']);
  });

  test('is paused after three days, with notice, and goes on where it stopped when it is resumed', async () => {
    const { id, appId } = await subscribed();
    answer = (_, response) => response.writeHead(500).end();
    await emit(6, 2);
    await work();
    const paused = await ctx.store.subscriptions.one({ id });
    expect(paused).toMatchObject({ paused_why: 'failing', app_id: appId });
    expect((paused?.paused_at ?? 0) - (paused?.breaker?.failingSince ?? 0)).toBeGreaterThan(60 * HOUR);
    expect(await ctx.store.deliveries.count({ state: 'due' })).toBe(6);
    const notice = await ctx.store.audit.one({ action: 'subscription.paused' });
    expect(notice?.summary).toContain('They are kept');

    await emit(2, 2);
    answer = (_, response) => response.writeHead(204).end();
    expect((await work()).calls).toBe(0);
    await resumeSubscription(ctx, SYSTEM, id);
    await work();
    expect(took.map(({ text }) => text).filter((text) => Number(text) % 2 === 0)).toEqual(['0', '2', '4', '0']);
    expect(took).toHaveLength(8);
  });

  test('an event only this app refuses is given up after three days, and the ones behind it pass', async () => {
    const { id } = await subscribed();
    answer = (_, response, body) => response.writeHead(body.includes('"text":"0"') ? 422 : 204).end();
    await emit(4, 1);
    // Others of another conversation show that the app is there.
    for (let day = 0; day < 4; day++) {
      await ctx.store.write((unit) =>
        emitMessageEvents(unit, 'windgap.message.received', [received(100 + day, 9, {})], clock),
      );
      await work(clock + 24 * HOUR);
      clock += 24 * HOUR;
    }
    await work();
    expect(await ctx.store.deliveries.one({ state: 'given-up' })).toMatchObject({
      message_id: 'msg_0',
      last_status: 422,
    });
    expect(took.map(({ text }) => text).filter((text) => Number(text) < 100)).toEqual(['1', '2', '3']);
    expect((await ctx.store.subscriptions.one({ id }))?.paused_at).toBeNull();
  });
});

describe('answers that are no yes are named', () => {
  const page = '<!doctype html><title>Sign in</title><form method="post"></form>';
  const cases: [CauseCode, (response: ServerResponse) => void][] = [
    ['app-answers-page', (response) => response.writeHead(200, { 'content-type': 'text/html' }).end(page)],
    ['app-redirects', (response) => response.writeHead(301, { location: '/hooks/' }).end()],
    ['app-address-unknown', (response) => response.writeHead(404).end()],
    ['app-signature-refused', (response) => response.writeHead(401).end('No signature matches')],
    ['app-refused', (response) => response.writeHead(403).end('Not from this address')],
    [
      'app-clock-off',
      (response) => response.writeHead(401, { date: new Date(clock - 6 * 60 * SECOND).toUTCString() }).end(),
    ],
    ['app-error', (response) => response.writeHead(500).end()],
  ];
  test.each(cases)('%s', async (cause, respond) => {
    const { appId } = await subscribed();
    answer = (_, response) => respond(response);
    await emit(1);
    await work(clock + SECOND);
    expect(took.length).toBe(cause === 'app-answers-page' ? 1 : 0);
    expect(await ctx.store.deliveries.one({ message_id: 'msg_0' })).toMatchObject({ state: 'due', cause });
    expect(await ctx.store.proofs.one({ subject_id: appId, hop: 'call-out' })).toMatchObject({
      state: 'broken',
      cause,
    });
  });

  test('410: paused at once, and everything is kept', async () => {
    const { id } = await subscribed();
    answer = (_, response) => response.writeHead(410).end();
    await emit(3);
    await work();
    expect(await ctx.store.subscriptions.one({ id })).toMatchObject({ paused_why: 'gone' });
    expect(await ctx.store.deliveries.count({ state: 'due' })).toBe(3);
  });
});

describe('a secret that is replaced', () => {
  test('signs beside the one before for a day, then alone', async () => {
    const { id, secret: old } = await subscribed();
    const { secret: fresh } = await replaceSecret(ctx, SYSTEM, id);
    const opens = (secret: string) => {
      const { headers, body } = took.at(-1) ?? { headers: {}, body: '' };
      try {
        new Webhook(secret).verify(body, headers);
        return true;
      } catch {
        return false;
      }
    };
    await emit(1);
    await work();
    expect([opens(old), opens(fresh)]).toEqual([true, true]);
    // The public package refuses times far from its own clock, so the end of the overlap comes to us instead.
    await ctx.store.write((unit) => unit.subscriptions.change({ id }, { previous_until: clock - 1 }));
    await ctx.store.write((unit) => emitMessageEvents(unit, 'windgap.message.received', [received(7, 7, {})], clock));
    await work();
    expect([opens(old), opens(fresh)]).toEqual([false, true]);
  });
});

describe('which events go out', () => {
  test('only chosen types, channels and states; a test event always', async () => {
    const { id } = await subscribed({
      events: ['windgap.message.state'],
      filter: { states: ['failed'], allApps: true },
    });
    await emit(2);
    const out = { direction: 'out' as const };
    const states = ['sent', 'failed', 'delivered'] as const;
    await ctx.store.write((unit) =>
      emitMessageEvents(
        unit,
        'windgap.message.state',
        states.map((state, index) => received(10 + index, index, { ...out, state })),
        clock,
      ),
    );
    await sendTestEvent(ctx, SYSTEM, id);
    await work();
    expect(
      took.map(({ headers, body }) => [(JSON.parse(body) as { type: string }).type, headers['webhook-id']]),
    ).toEqual([
      ['windgap.message.state', expect.stringMatching(/^evt_/)],
      ['windgap.test', expect.stringMatching(/^evt_/)],
    ]);
    await expect(changeSubscription(ctx, SYSTEM, id, { url, filter: { channels: ['chn_none'] } })).rejects.toThrow(
      'no channel',
    );
    await expect(changeSubscription(ctx, SYSTEM, id, { url, events: ['windgap.other'] })).rejects.toThrow('no event');
  });

  test('paused by hand nothing goes and nothing is lost; ended nothing can be done with it', async () => {
    const { id } = await subscribed();
    await pauseSubscription(ctx, SYSTEM, id);
    await emit(3);
    expect((await work()).calls).toBe(0);
    await expect(sendTestEvent(ctx, SYSTEM, id)).rejects.toThrow('paused');
    await resumeSubscription(ctx, SYSTEM, id);
    await work();
    expect(took).toHaveLength(3);
    await endSubscription(ctx, SYSTEM, id);
    await expect(resumeSubscription(ctx, SYSTEM, id)).rejects.toThrow('ended');
  });
});

test('the engine lets go of what it claimed ahead when somebody pauses, and loses none of it', async () => {
  ctx = { ...ctx, now: Date.now };
  const { id } = await subscribed();
  answer = (_, response) => systemClock.after(60, () => response.writeHead(204).end());
  await emit(300);
  const engine = startDeliverer(ctx, 'test', { noteRound: () => undefined });
  try {
    await until('some are taken', () => took.length > 30);
    await pauseSubscription(ctx, SYSTEM, id);
    const atPause = took.length;
    engine.ring();
    await until('the rest waits', async () => (await ctx.store.deliveries.count({ state: 'leased' })) === 0);
    // Those under way end, and what left while the pause was being noticed.
    expect(took.length - atPause).toBeLessThanOrEqual(3 * MOST_PER_APP);
    expect(took.length).toBeLessThan(300);
    await resumeSubscription(ctx, SYSTEM, id);
    engine.ring();
    await until('all are taken', () => took.length >= 300);
  } finally {
    await engine.stop();
  }
  expect(new Set(took.map((event) => event.id)).size).toBe(300);
  expect(took).toHaveLength(300);
});

describe('replays', () => {
  test('1,000 of the log again, in their order, with the ids they had', async () => {
    const { id } = await subscribed();
    await emit(1000, 10);
    await work();
    const first = took.map((event) => event.id);
    took = [];
    expect(
      await redeliverRange(ctx, SYSTEM, id, { from: clock - HOUR, to: clock + HOUR, which: 'not-delivered' }),
    ).toBe(0);
    expect(await redeliverRange(ctx, SYSTEM, id, { from: clock - HOUR, to: clock + HOUR, which: 'all' })).toBe(1000);
    await work();
    expect(took.map((event) => event.id).sort()).toEqual([...first].sort());
    const ofOne = took.filter(({ text }) => Number(text) % 10 === 3).map(({ text }) => Number(text));
    expect(ofOne).toEqual([...ofOne].sort((a, b) => a - b));
    await expect(redeliverRange(ctx, SYSTEM, id, { from: 5, to: 5, which: 'all' })).rejects.toThrow('ends before');
  });

  test('a single one; an app may only touch its own', async () => {
    await subscribed();
    await emit(1);
    await work();
    const delivery = await ctx.store.deliveries.one({ message_id: 'msg_0' });
    await redeliver(ctx, SYSTEM, delivery?.id ?? '');
    await work();
    expect(took).toHaveLength(2);
    const stranger = { kind: 'app', id: 'app_other', name: 'Other', keyId: 'key', scopes: ['webhooks:write'] } as const;
    await expect(redeliver(ctx, stranger, delivery?.id ?? '')).rejects.toMatchObject({ kind: 'not-found' });
    await expect(redeliver(ctx, { ...stranger, scopes: [] }, delivery?.id ?? '')).rejects.toMatchObject({
      kind: 'forbidden',
    });
  });
});
