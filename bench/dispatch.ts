/**
 * How fast queued texts leave, against a bare loop of the same client package on the same
 * stand-in: what durable claims, kept answers and evidence cost.
 */
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import smpp, { type PDU, type Session } from 'smpp';
import { SYSTEM } from '../src/operations/context/actor';
import { receiptUrl } from '../src/operations/context/channelAddresses';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMossgate, credentialsOf, INES } from '../tests/harness/mossgate';
import { connectTrunk, trunkCredentials, untilBound } from '../tests/harness/ostrel';
import { type Installation, ROOT, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { median } from './load';

const ROUNDS = 3;
/** As many as leave in a few seconds, so that what happens once weighs little. */
const TEXTS = { trunk: 5000, http: 2000 };
const WINDOW = 50;
/** Texts a second of a channel that is to hold back, and of one that is not. */
const CRAWL = 0.001;
const UNTHROTTLED = 10_000;
/** A login of its own for the bare loop, as Windgap holds its link all the time. */
const BARE_LOGIN = 'bare';
const BARE_NUMBER = '+447700900899';
const AT_ONCE = 32;
const TEXT = 'Passage at Fallowfield lock is booked for 14:20, berth';

/** The shipped profiles, free of the limits their providers really have. */
function unthrottled(): Record<string, string> {
  const read = (name: string) => readFileSync(join(ROOT, 'src/connectors/profiles', `${name}.yaml`), 'utf8');
  return {
    'ostrel-free.yaml': read('ostrel')
      .replace('id: ostrel', 'id: ostrel-free')
      .replace('mostPace: 100', `mostPace: ${UNTHROTTLED}`),
    'brackwater-free.yaml': read('brackwater')
      .replace('id: brackwater', 'id: brackwater-free')
      .replace('pace: 25, concurrency: 8', `pace: ${UNTHROTTLED}, concurrency: ${AT_ONCE}`),
  };
}

export async function dispatch(): Promise<void> {
  await overTrunk();
  await overHttp();
}

async function overTrunk(): Promise<void> {
  const installation = await free();
  try {
    const settings = { pace: UNTHROTTLED, window: WINDOW };
    const trunk = await connectTrunk(installation, { connector: 'ostrel-free', settings });
    await installation.startEngine();
    await untilBound(installation, trunk.accountId);
    await compare('Trunk', () => queued(installation, trunk.channel, TEXTS.trunk), {
      'a bare loop that waits for each answer': () => bareTrunk(installation, 1),
      [`one with ${WINDOW} unanswered, as Windgap has`]: () => bareTrunk(installation, WINDOW),
    });
  } finally {
    await installation.stop();
  }
}

async function overHttp(): Promise<void> {
  const installation = await free();
  // Whatever the provider reports is taken at once and forgotten.
  const taker = createServer((request, answer) => {
    request.resume();
    answer.writeHead(204).end();
  }).listen(Number(installation.env.PORT), '127.0.0.1');
  try {
    const { channel } = await connectMossgate(installation, 'brackwater-free', UNTHROTTLED);
    // No app listens: telling it would be work of its own.
    await installation.ctx.store.write((unit) => unit.subscriptions.change({}, { disabled_at: Date.now() }));
    await installation.startEngine();
    await compare('HTTP', () => queued(installation, channel, TEXTS.http), {
      [`a bare loop with ${AT_ONCE} at once, as Windgap has`]: () => bareHttp(installation, channel),
    });
  } finally {
    taker.close();
    taker.closeAllConnections();
    await installation.stop();
  }
}

async function free(): Promise<Installation> {
  const installation = await startInstallation({
    web: false,
    engine: false,
    perSecond: 100_000,
    profiles: unthrottled(),
    outside: ({ ostrel }) => {
      const [first] = ostrel;
      if (first) ostrel.push({ ...first, systemId: BARE_LOGIN, numbers: [BARE_NUMBER] });
      for (const login of ostrel) login.perSecond = 100_000;
    },
  });
  // Receipts are held back from all: what is measured is the way out.
  await installation.bench.setHandset(INES, { delayMs: 600_000 });
  return installation;
}

async function compare(
  name: string,
  windgap: () => Promise<number>,
  yardsticks: Record<string, () => Promise<number>>,
): Promise<void> {
  const ours: number[] = [];
  const theirs = Object.entries(yardsticks).map(([label, measure]) => ({ label, measure, rates: [] as number[] }));
  // Every process has been warmed up by the time it counts.
  for (let round = -1; round < ROUNDS; round++) {
    const measured = [];
    for (const { measure } of theirs) measured.push(await measure());
    const our = await windgap();
    if (round < 0) continue;
    ours.push(our);
    for (const [index, { rates }] of theirs.entries()) rates.push(measured[index] as number);
  }
  for (const { label, rates } of theirs) {
    const ratios = rates.map((rate, round) => (ours[round] as number) / rate);
    console.log(
      `${name} dispatch: ${median(ours).toFixed(0)}/s against ${label}, ${median(rates).toFixed(0)}/s: ratio ${median(ratios).toFixed(2)} (rounds ${ratios.map((ratio) => ratio.toFixed(2)).join(' ')})`,
    );
  }
}

/** Texts a second from the moment the channel may send until the answer to the last one is kept. */
async function queued(installation: Installation, channel: ChannelRow, texts: number): Promise<number> {
  const { ctx } = installation;
  const send = createSender(ctx);
  const setPace = (pace: number) => ctx.store.write((unit) => unit.channels.change({ id: channel.id }, { pace }));
  // At a crawl while the queue is filled.
  await setPace(CRAWL);
  await Promise.all(
    Array.from({ length: texts }, (_, index) => send(SYSTEM, { to: INES, text: `${TEXT} ${index}`, from: channel.id })),
  );
  await setPace(UNTHROTTLED);
  const began = Date.now();
  const waiting = await ctx.store.outbox.count();
  ctx.engineWakeUp.ring('outbox');
  await until('everything has left', async () => (await ctx.store.outbox.count()) === 0);
  return (waiting * 1000) / (Date.now() - began);
}

/** The same package and the same kind of bind; nothing kept. */
async function bareTrunk(installation: Installation, window: number): Promise<number> {
  const { host, port, password } = trunkCredentials(installation);
  const session: Session = smpp.connect({ host, port: Number(port) });
  await new Promise<void>((resolve, reject) => {
    session.on('error', reject);
    session.on('connect', () => {
      session.socket.setNoDelay(true);
      session.send(new smpp.PDU('bind_transceiver', { system_id: BARE_LOGIN, password }), () => resolve());
    });
  });
  session.on('pdu', (pdu: PDU) => {
    if (pdu.command === 'deliver_sm') session.send(pdu.response());
  });
  const began = performance.now();
  await inParallel(TEXTS.trunk, window, async (index) => {
    const pdu = new smpp.PDU('submit_sm', {
      source_addr: BARE_NUMBER.slice(1),
      source_addr_ton: 1,
      source_addr_npi: 1,
      destination_addr: INES.slice(1),
      dest_addr_ton: 1,
      dest_addr_npi: 1,
      registered_delivery: 1,
      short_message: { message: Buffer.from(`${TEXT} ${index}`) },
    });
    const answer = await new Promise<PDU>((resolve) => session.send(pdu, resolve));
    if (answer.command_status !== 0) throw new Error(`The carrier answered ${answer.command_status}`);
  });
  const rate = (TEXTS.trunk * 1000) / (performance.now() - began);
  await new Promise<void>((resolve) => session.send(new smpp.PDU('unbind'), () => resolve()));
  session.destroy();
  return rate;
}

/** The same HTTP client with the same call, as many at once. */
async function bareHttp(installation: Installation, channel: ChannelRow): Promise<number> {
  const { apiAddress, accountId, secret } = credentialsOf(installation);
  const authorization = `Basic ${Buffer.from(`${accountId}:${secret}`).toString('base64')}`;
  const began = performance.now();
  await inParallel(TEXTS.http, AT_ONCE, async (index) => {
    const answer = await fetch(`${apiAddress}/texts`, {
      method: 'POST',
      headers: { authorization, 'content-type': 'application/json' },
      body: JSON.stringify({
        from: channel.address,
        to: INES,
        text: `${TEXT} ${index}`,
        reference: `bare-${Date.now()}-${index}`,
        report_to: receiptUrl(installation.ctx, channel),
      }),
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`The provider answered ${answer.status} ${text}`);
  });
  return (TEXTS.http * 1000) / (performance.now() - began);
}

async function inParallel(texts: number, atOnce: number, work: (index: number) => Promise<void>): Promise<void> {
  let next = 0;
  const worker = async () => {
    while (next < texts) await work(next++);
  };
  await Promise.all(Array.from({ length: atOnce }, worker));
}
