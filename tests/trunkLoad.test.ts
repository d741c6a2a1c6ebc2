/** The trunk under load: cut again and again while it sends. */
import { afterEach, expect, test } from 'vitest';
import { queueTexts } from './harness/load';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, killHard, startInstallation, until } from './harness/processes';

let installation: Installation;
afterEach(() => installation.stop());

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

test('cut ten times during 1,000 sends: killed, silent, slow; all accounted for, none twice', async () => {
  installation = await startInstallation({ web: false, engine: false });
  const { w, bench } = installation;
  const login = installation.world.ostrel[0]?.systemId;
  await bench.change(`ostrel/logins/${login}`, { perSecond: 2000 });
  const trunk = await connectTrunk(installation, { settings: { pace: 100, window: 20, answerSeconds: 1 } });
  await installation.startEngine();
  await untilBound(installation, trunk.accountId);

  const bounds = async () => (await w.store.trunkStates.one({ account_id: trunk.accountId }))?.reconnects ?? 0;
  const fault = async (on: Record<string, boolean | number>, ms: number, off: Record<string, boolean | number>) => {
    await bench.faults({ ostrel: on });
    await pause(ms);
    await bench.faults({ ostrel: off });
  };
  const disturb = [
    () => installation.restartStandins(),
    () => fault({ silent: true }, 2600, { silent: false }),
    async () => {
      await fault({ slowAnswers: 1300 }, 1500, { slowAnswers: 0 });
      await bench.post('/ostrel/cut');
    },
    () => bench.post('/ostrel/cut'),
    () => fault({ cutsBeforeAnswer: true }, 600, { cutsBeforeAnswer: false }),
  ];
  const ids: string[] = [];
  for (let cut = 0; cut < 10; cut++) {
    // Every cut falls into texts of its own, however slowly the ones before were worked off.
    ids.push(...(await queueTexts(installation, 100, trunk.channel.id, `Cut ${cut + 1}, text`)));
    await pause(300);
    const before = await bounds();
    await disturb[cut % disturb.length]?.();
    // A killed carrier has forgotten what its console was told.
    await bench.change(`ostrel/logins/${login}`, { perSecond: 2000 });
    await until(`it is bound again after cut ${cut + 1}`, async () => (await bounds()) > before, 60_000);
  }
  await until(
    'nothing is due any more',
    async () => (await w.store.outbox.count({ state: ['due', 'leased'] })) === 0,
    120_000,
  );
  await until(
    'receipts have settled what they can',
    async () => (await w.store.messages.count({ id: ids, state: ['queued', 'sending', 'sent'] })) === 0,
    60_000,
  );
  const states = await w.store.select<{ state: string; n: number }>(
    `SELECT state, count(*) AS n FROM messages WHERE direction = 'out' GROUP BY state`,
  );
  const counts = Object.fromEntries(states.map((row) => [row.state, row.n]));
  const copies = new Map<string, number>();
  for (const entry of await bench.ostrelTexts()) copies.set(entry.text, (copies.get(entry.text) ?? 0) + 1);
  const doubled = [...copies.values()].filter((n) => n > 1).length;
  const state = await w.store.trunkStates.one({ account_id: trunk.accountId });
  console.log(
    counts,
    `carrier took ${copies.size} different texts, ${doubled} more than once; bound ${state?.reconnects} times`,
  );
  expect(doubled).toBe(0);
  expect((counts.delivered ?? 0) + (counts.uncertain ?? 0)).toBe(1000);
  // What the carrier does not have is among those that say they are uncertain.
  expect(1000 - copies.size).toBeLessThanOrEqual(counts.uncertain ?? 0);
  expect(state?.reconnects ?? 0).toBeGreaterThanOrEqual(11);
  await killHard(installation.engine);
}, 240_000);
