/** The trunk held at its pace: however the machine stutters, no second is above it. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { queueTexts } from './harness/load';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const PACE = 40;
const SECONDS = 4;

let house: Installation;
beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
});
afterAll(() => house.stop());

test('no second has more than the pace allows', async () => {
  const { ctx } = house;
  const trunk = await connectTrunk(house, { settings: { pace: PACE, window: 20 } });
  await queueTexts(house, PACE * SECONDS, trunk.channel.id, 'Paced');
  await house.startEngine();
  await untilBound(house, trunk.accountId);
  await until('all of it has left', async () => (await ctx.store.outbox.count()) === 0);
  const sent = await ctx.store.select<{ at: number }>(`SELECT at FROM exchanges WHERE purpose = 'send' ORDER BY at`);
  const times = sent.map(({ at }) => at);
  expect(times).toHaveLength(PACE * SECONDS);
  for (const [index, at] of times.entries()) {
    const withinASecond = times.slice(index).filter((other) => other - at < 1000);
    expect(withinASecond.length).toBeLessThanOrEqual(PACE);
  }
});
