/** The trunk held at its pace. Run by itself: what takes the processor takes turns that no later second may make up for. */
import { setPriority } from 'node:os';
import { afterEach, expect, test } from 'vitest';
import { queueTexts } from './harness/load';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, startInstallation, until } from './harness/processes';

// The processes started here inherit it: on a machine that does other things as well, the line goes first.
try {
  setPriority(-10);
} catch {
  // Only root may; then it is measured as it comes.
}

let installation: Installation;
afterEach(() => installation.stop());

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** The largest number of moments in any stretch of one second. */
function mostInASecond(times: readonly number[]): number {
  let most = 0;
  for (let end = 0, start = 0; end < times.length; end++) {
    while ((times[end] as number) - (times[start] as number) >= 1000) start++;
    most = Math.max(most, end - start + 1);
  }
  return most;
}

test('over 60 seconds at 50 a second: no second above it, and at least 97 % of it used', {
  timeout: 150_000,
}, async () => {
  installation = await startInstallation({ web: false, engine: false });
  const trunk = await connectTrunk(installation, { settings: { pace: 50, window: 20 } });
  const seconds = 60;
  await queueTexts(installation, 50 * seconds + 250, trunk.channel.id, 'Paced');
  await installation.startEngine();
  await untilBound(installation, trunk.accountId);
  // Looked at rarely: what looks takes time from the two that are being measured.
  await pause((seconds + 2) * 1000);
  await until(
    'all of it has left',
    async () => {
      await pause(1000);
      return (await installation.w.store.outbox.count()) === 0;
    },
    60_000,
  );
  const sent = await installation.w.store.select<{ at: number }>(
    `SELECT at FROM exchanges WHERE purpose = 'send' ORDER BY at`,
  );
  const times = sent.map((row) => row.at);
  // The first seconds and the last are left out: what is measured is a trunk that always has something to send.
  const from = (times[0] ?? 0) + 2000;
  const inside = times.filter((at) => at >= from && at < from + seconds * 1000);
  const most = mostInASecond(times);
  const arrivals = (await installation.bench.ostrelTexts()).map((text) => text.at).sort((a, b) => a - b);
  console.log(
    `most in any second ${most} as sent, ${mostInASecond(arrivals)} as the carrier took them; ${((inside.length / (50 * seconds)) * 100).toFixed(1)} % used`,
  );
  expect(most).toBeLessThanOrEqual(50);
  expect(inside.length).toBeGreaterThanOrEqual(0.97 * 50 * seconds);
});
