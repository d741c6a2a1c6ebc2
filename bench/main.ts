/**
 * The standing figures, as ratios against a yardstick measured in the same run on the
 * same machine, because absolute rates say more about the machine than about Windgap.
 */
import { readFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { connectMossgate, INES, type Mossgate, signedHeaders, textIn } from '../tests/harness/mossgate';
import { end, type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { apps } from './apps';
import { attacks } from './attacks';
import { broadcasts } from './broadcasts';
import { contacts } from './contacts';
import { crowd } from './crowd';
import { dispatch } from './dispatch';
import { forecasts } from './forecast';
import { load, median } from './load';
import { log } from './log';
import { pace } from './pace';
import { readiness } from './readiness';
import { routes } from './routes';
import { sheets } from './sheets';
import { years } from './years';

const ROUNDS = 5;
const PER_ROUND = 1200;
const AT_ONCE = 32;
const ROUND_TRIPS = 60;
const MEMORY_MESSAGES = Number(process.env.BENCH_MEMORY_MESSAGES ?? 10_000);

console.log(
  `Machine: ${cpus().length} × ${cpus()[0]?.model}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.versions.node}`,
);
const parts = new Set(
  process.env.BENCH_PARTS?.split(',') ?? [
    'intake',
    'dispatch',
    'apps',
    'sheets',
    'contacts',
    'routes',
    'readiness',
    'broadcasts',
    'forecasts',
    'log',
    'attacks',
    'pace',
    'crowd',
    'years',
  ],
);
if (parts.has('intake')) {
  const installation = await startInstallation({ perSecond: 10_000 });
  try {
    const mossgate = await connectMossgate(installation);
    await roundTrips(installation, mossgate);
    await intake(installation, mossgate);
    await memory(installation, mossgate);
  } finally {
    await installation.stop();
  }
}
if (parts.has('dispatch')) await dispatch();
if (parts.has('apps')) await apps();
if (parts.has('sheets')) await sheets();
if (parts.has('contacts')) await contacts();
if (parts.has('routes')) await routes();
if (parts.has('readiness')) await readiness();
if (parts.has('broadcasts')) await broadcasts();
if (parts.has('forecasts')) await forecasts();
if (parts.has('log')) await log();
if (parts.has('attacks')) await attacks();
if (parts.has('pace')) await pace();
if (parts.has('years')) await years();
if (parts.has('crowd')) await crowd();

/** Handset → provider → inbound URL → engine → app → API → engine → provider → handset, by the handset's own clock. */
async function roundTrips({ bench }: Installation, mossgate: Mossgate): Promise<void> {
  const times: number[] = [];
  for (let trip = 0; trip < ROUND_TRIPS; trip++) {
    const began = Date.now();
    await bench.type(INES, mossgate.channel.address, `LOCK trip ${trip}`);
    const answer = await until('the answer is back', async () =>
      (await bench.received(INES)).find((entry) => entry.text.includes(`trip ${trip}.`)),
    );
    times.push(Date.parse(answer.at) - began);
  }
  const settled = times.slice(5);
  const sorted = [...settled].sort((a, b) => a - b);
  const p95 = sorted[Math.floor(sorted.length * 0.95)];
  console.log(
    `Round trip handset → app → API → handset: median ${median(settled)} ms, p95 ${p95} ms over ${settled.length} (of which the simulated network takes 120 ms)`,
  );
}

/** Signed posts, each stored before it is answered, against the same server's route handler that does nothing. */
async function intake(installation: Installation, mossgate: Mossgate): Promise<void> {
  const { origin } = installation;
  const empty = (index: number) => {
    const body = textIn(`bwt_e${index}`, INES, mossgate.channel.address, 'Is Fallowfield lock open tomorrow?');
    return { url: `${origin}/health`, headers: signedHeaders(mossgate.secret, body), body };
  };
  let number = 0;
  const signed = () => {
    const body = textIn(`bwt_i${number++}`, INES, mossgate.channel.address, 'Is Fallowfield lock open tomorrow?');
    return { url: mossgate.inboundUrl, headers: signedHeaders(mossgate.secret, body), body };
  };
  await load(300, AT_ONCE, 204, empty);
  await load(300, AT_ONCE, 202, signed);
  for (const engine of ['stopped', 'working'] as const) {
    if (engine === 'stopped') await end(installation.engine);
    else await installation.startEngine();
    const pairs: { empty: number; signed: number }[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      pairs.push({
        empty: await load(PER_ROUND, AT_ONCE, 204, empty),
        signed: await load(PER_ROUND, AT_ONCE, 202, signed),
      });
    }
    const ratio = median(pairs.map((pair) => pair.signed / pair.empty));
    console.log(
      `Intake, engine ${engine}: ${median(pairs.map((pair) => pair.signed)).toFixed(0)}/s against an empty route handler’s ${median(pairs.map((pair) => pair.empty)).toFixed(0)}/s: ratio ${ratio.toFixed(2)} (rounds ${pairs.map((pair) => (pair.signed / pair.empty).toFixed(2)).join(' ')})`,
    );
  }
}

async function memory(installation: Installation, mossgate: Mossgate): Promise<void> {
  const { ctx } = installation;
  const before = await ctx.store.messages.count();
  const began = performance.now();
  await load(MEMORY_MESSAGES, AT_ONCE, 202, (index) => {
    const from = `+447700900${String(index % 1000).padStart(3, '0')}`;
    const body = textIn(`bwt_m${index}`, from, mossgate.channel.address, `Message ${index}`);
    return { url: mossgate.inboundUrl, headers: signedHeaders(mossgate.secret, body), body };
  });
  await until('all are read', async () => (await ctx.store.inbound.count({ state: 'stored' })) === 0);
  const seconds = (performance.now() - began) / 1000;
  const made = (await ctx.store.messages.count()) - before;
  console.log(
    `After ${made} further messages in ${seconds.toFixed(0)} s: web ${residentMiB(installation.web?.pid)} MiB, engine ${residentMiB(installation.engine?.pid)} MiB resident`,
  );
}

function residentMiB(pid: number | undefined): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8');
  return Math.round(Number(/VmRSS:\s+(\d+)/.exec(status)?.[1]) / 1024);
}
