/** What share of its pace a trunk uses, also while every commit waits, against a bare timer held to the same pace. */
import { setPriority } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import sqlite3 from 'sqlite3';
import { newRateLimiter, take } from '../src/core/pacing/rateLimiter';
import { queueTexts } from '../tests/harness/load';
import { connectTrunk, untilBound } from '../tests/harness/ostrel';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';

// The processes started here inherit it: on a machine that does other things as well, the line goes first.
try {
  setPriority(-10);
} catch {
  // Only root may; then it is measured as it comes.
}

/** Texts a second. */
const PACE = 50;
/** The first of a line are left out, and more are queued than can leave: what is measured always has something to send. */
const WARMING = 2000;

let installation: Installation;

/** The largest number of moments in any stretch of one second. */
function mostInASecond(times: readonly number[]): number {
  let most = 0;
  for (let end = 0, start = 0; end < times.length; end++) {
    while ((times[end] as number) - (times[start] as number) >= 1000) start++;
    most = Math.max(most, end - start + 1);
  }
  return most;
}

/** Of the pace over so many seconds after the first ones, the share that was used. */
function shareUsed(times: readonly number[], seconds: number): number {
  const from = (times[0] ?? 0) + WARMING;
  return times.filter((at) => at >= from && at < from + seconds * 1000).length / (PACE * seconds);
}

/** When a bare timer held to the same pace had its turns: printed beside it, it tells a slow machine from a slow line. */
async function bareTimer(seconds: number): Promise<number[]> {
  const rateLimiter = newRateLimiter();
  const times: number[] = [];
  const until = Date.now() + WARMING + (seconds + 1) * 1000;
  for (let now = Date.now(); now < until; now = Date.now()) {
    const { granted, waitMs } = take(rateLimiter, PACE, 1, now);
    if (granted > 0) times.push(now);
    else await pause(Math.max(1, waitMs));
  }
  return times;
}

/** A trunk with more queued on it than can leave in that time. */
async function fullTrunk(seconds: number): Promise<void> {
  installation = await startInstallation({ web: false, engine: false });
  const trunk = await connectTrunk(installation, { settings: { pace: PACE, window: 20 } });
  await queueTexts(installation, PACE * seconds + 5 * PACE, trunk.channel.id, 'Paced');
  await installation.startEngine();
  await untilBound(installation, trunk.accountId);
}

/** Until all of it has left: the most in any second, as sent and as it arrived, and the share of the pace beside a bare timer's. */
async function measured(seconds: number) {
  const bare = shareUsed(await bareTimer(seconds), seconds);
  await until(
    'all of it has left',
    async () => (await installation.ctx.store.outbox.count()) === 0,
    // What looks takes time from the two that are being measured.
    1000,
  );
  const sent = await installation.ctx.store.select<{ at: number }>(
    `SELECT at FROM exchanges WHERE purpose = 'send' ORDER BY at`,
  );
  const times = sent.map((row) => row.at);
  const arrivals = (await installation.bench.ostrelTexts()).map((text) => text.at).sort((a, b) => a - b);
  return { most: mostInASecond(times), mostArrived: mostInASecond(arrivals), used: shareUsed(times, seconds), bare };
}

const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

/** Each in an installation of its own. */
export async function pace(): Promise<void> {
  await fullTrunk(60);
  const { most, mostArrived, used, bare } = await measured(60).finally(() => installation.stop());
  console.log(
    `Trunk over 60 s at ${PACE} a second: ${percent(used)} of the pace used, ${percent(bare)} by a bare timer: ratio ${(used / bare).toFixed(2)}; most in any second ${most} as sent, ${mostArrived} as the carrier took them`,
  );
  await fullTrunk(15);
  const disk = slowCommits(join(installation.folder, 'data', 'windgap.db'), 150);
  const slow = await measured(15)
    .finally(disk.stop)
    .finally(() => installation.stop());
  console.log(
    `Trunk while each commit waits 150 ms: ${percent(slow.used)} used, ${percent(slow.bare)} by a bare timer: ratio ${(slow.used / slow.bare).toFixed(2)}`,
  );
}

/** Holds the write lock for `ms` at a time with a short gap between, so that whoever commits waits for as long. */
function slowCommits(file: string, ms: number) {
  const database = new sqlite3.Database(file);
  const run = (sql: string) => new Promise<boolean>((resolve) => database.run(sql, (error) => resolve(!error)));
  let stopping = false;
  const ended = (async () => {
    while (!stopping) {
      if (await run('BEGIN IMMEDIATE')) {
        await pause(ms);
        await run('COMMIT');
      }
      await pause(5);
    }
    database.close();
  })();
  return {
    stop: () => {
      stopping = true;
      return ended;
    },
  };
}
