/** A database of a million messages and a year of runs and requests: how long a start takes, and that pruning keeps up with traffic. */
import { statSync } from 'node:fs';
import { join } from 'node:path';
import type { AppContext } from '../src/operations/context';
import { SYSTEM } from '../src/operations/context/actor';
import { wakeUpPath } from '../src/operations/context/appContext';
import { somebodyListens } from '../src/operations/context/engineWakeUp';
import { createSender } from '../src/operations/outbound/sendMessage';
import { pastId } from '../src/store/ids';
import { connectMossgate, INES, type Mossgate } from '../tests/harness/mossgate';
import { end, type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { median } from './load';
import { fill } from './log';

const DAY = 86_400_000;
const YEAR = 365 * DAY;
const EACH = Number(process.env.BENCH_RECORDS ?? 300_000);
const STARTS = 5;
/** Ten times an ordinary day's, so that pruning has to keep up with more than it will ever meet. */
const PER_SECOND = 20;

export async function years(): Promise<void> {
  const empty = await startInstallation();
  const young = await starts(empty);
  await empty.stop();

  const installation = await startInstallation();
  try {
    const mossgate = await connectMossgate(installation);
    await fill(installation.ctx, mossgate);
    await aYear(installation.ctx, mossgate);
    const old = await starts(installation);
    for (const process of ['web', 'engine'] as const)
      console.log(
        `start of ${process}: ${young[process].toFixed(0)} ms empty, ${old[process].toFixed(0)} ms with ${(await installation.ctx.store.messages.count()).toLocaleString('en')} messages: ${(old[process] / young[process]).toFixed(2)}`,
      );
    await pruning(installation, mossgate);
  } finally {
    await installation.stop();
  }
}

/** Medians, in milliseconds, until the web answers and the engine works. */
async function starts(installation: Installation): Promise<{ web: number; engine: number }> {
  const web: number[] = [];
  const engine: number[] = [];
  for (let n = 0; n < STARTS; n++) {
    await Promise.all([end(installation.web), end(installation.engine)]);
    let began = performance.now();
    await installation.startWeb();
    web.push(performance.now() - began);
    began = performance.now();
    await installation.startEngine();
    await until('the engine works', () => somebodyListens(wakeUpPath(installation.ctx.config)), 5);
    engine.push(performance.now() - began);
  }
  return { web: median(web), engine: median(engine) };
}

/** Evidence spread over a year, which nothing has removed yet. */
async function aYear(ctx: AppContext, { channel, appId, subscriptionId }: Mossgate): Promise<void> {
  const now = Date.now();
  const step = YEAR / EACH;
  const body = 'x'.repeat(400);
  for (let from = 0; from < EACH; from += 5000) {
    const at = Array.from({ length: Math.min(5000, EACH - from) }, (_, n) =>
      Math.round(now - YEAR + (from + n) * step),
    );
    await ctx.store.write(
      async (unit) => {
        await unit.exchanges.insert(
          at.map((when) => ({
            id: pastId('exc', when),
            purpose: 'send' as const,
            subject_id: 'msg_past',
            at: when,
            elapsed_ms: 20,
            request: { method: 'POST', url: 'http://provider.example/texts', headers: {}, body },
            response: { status: 202, headers: {}, body },
            cause: null,
          })),
        );
        await unit.inbound.insert(
          at.map((when) => ({
            id: pastId('inb', when),
            channel_id: channel.id,
            account_id: null,
            received_at: when,
            method: 'POST',
            path: '/in/past',
            query: '',
            headers: {},
            body: Buffer.from(body),
            remote_address: null,
            signature: 'valid' as const,
            answer_status: 202,
            state: 'done' as const,
            cause: null,
            outcome: null,
            processed_at: when,
          })),
        );
        await unit.runs.insert(
          at.map((when) => ({
            id: pastId('run', when),
            app_id: appId,
            source: 'hook' as const,
            source_id: 'hok_past',
            subject_id: 'pst_past',
            steps: [],
            next: 0,
            state: 'done' as const,
            due_at: when,
            attempts: 0,
            first_attempt_at: null,
            results: [],
            memory: {},
            contact_id: null,
            awaiting: 0,
            stops_on_reply: 0,
            turn: null,
            lease_owner: null,
            leased_at: null,
            created_at: when,
            ended_at: when,
          })),
        );
        await unit.deliveries.insert(
          at.map((when) => ({
            id: pastId('dlv', when),
            subscription_id: subscriptionId,
            event_id: 'evt_past',
            event_type: 'windgap.message.received',
            message_id: null,
            ordering_key: 'past',
            body,
            state: 'delivered' as const,
            cause: null,
            attempts: 1,
            first_attempt_at: when,
            due_at: when,
            lease_owner: null,
            leased_at: null,
            last_status: 204,
            created_at: when,
            delivered_at: when,
          })),
        );
      },
      { durable: false },
    );
  }
}

/** The engine prunes once a minute; texts are sent all the while. */
async function pruning({ ctx, bench }: Installation, { channel }: Mossgate): Promise<void> {
  const left = async () => {
    const [row] = await ctx.store.select<{ n: number }>(
      `SELECT (SELECT count(*) FROM exchanges WHERE id < :exc) + (SELECT count(*) FROM inbound_requests WHERE id < :inb)
            + (SELECT count(*) FROM webhook_deliveries WHERE id < :dlv) + (SELECT count(*) FROM runs WHERE id < :run) AS n`,
      {
        exc: pastId('exc', Date.now() - 30 * DAY),
        inb: pastId('inb', Date.now() - 60 * DAY),
        dlv: pastId('dlv', Date.now() - 30 * DAY),
        run: pastId('run', Date.now() - 90 * DAY),
      },
    );
    return row?.n ?? 0;
  };
  const size = () => Math.round(statSync(join(ctx.config.dataFolder, 'windgap.db')).size / 2 ** 20);
  const before = { rows: await left(), size: size() };
  const began = performance.now();
  const send = createSender(ctx);
  const waits: number[] = [];
  let sent = 0;
  while ((await left()) > 0 && performance.now() - began < 20 * 60_000) {
    // Its minutes are brought by the bench's clock; what it does in each is done at its own pace.
    await bench.moveClock(61_000);
    for (let second = 0; second < 12; second++) {
      const since = performance.now();
      await Promise.all(
        Array.from({ length: PER_SECOND }, () =>
          send(SYSTEM, { to: INES, from: channel.id, text: `Notice ${sent++}` }),
        ),
      );
      waits.push(performance.now() - since);
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, 1000 - (performance.now() - since))));
    }
  }
  const seconds = (performance.now() - began) / 1000;
  waits.sort((a, b) => a - b);
  console.log(
    `pruning: ${before.rows.toLocaleString('en')} rows too old at first, ${(await left()).toLocaleString('en')} after ${seconds.toFixed(0)} s beside ${sent} sends; ${PER_SECOND} sends took ${waits[Math.floor(waits.length / 2)]?.toFixed(0)} ms at the median, ${waits.at(-1)?.toFixed(0)} ms at most; file ${before.size} MiB before, ${size()} MiB after`,
  );
}
