/** The trunk under load: cut again and again while it sends. */
import { afterEach, expect, test } from 'vitest';
import { counts } from './harness/chaos';
import { queueTexts } from './harness/load';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
afterEach(() => installation.stop());

const CUTS = counts(5, 10);

test(`cut ${CUTS} times during ${CUTS * 100} sends: killed, silent, slow; all accounted for, none twice`, async () => {
  installation = await startInstallation({ web: false, engine: false });
  const { ctx, bench } = installation;
  const login = installation.world.ostrel[0]?.systemId;
  await bench.change(`ostrel/logins/${login}`, { perSecond: 2000 });
  const trunk = await connectTrunk(installation, { settings: { pace: 100, window: 20, answerSeconds: 1 } });
  await installation.startEngine();
  await untilBound(installation, trunk.accountId);

  const bounds = async () => (await ctx.store.trunkStates.one({ account_id: trunk.accountId }))?.reconnects ?? 0;
  const trunkState = () => ctx.store.trunkStates.one({ account_id: trunk.accountId });
  const allLeft = async () => (await ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0;
  /** Until the engine has noticed, or has nothing left to notice it by; then the carrier cuts it off. */
  const fault = async (
    on: Record<string, boolean | number>,
    off: Record<string, boolean | number>,
    noticed: () => Promise<boolean>,
  ) => {
    const before = await bounds();
    await bench.faults({ ostrel: on });
    await until('it is noticed', async () => (await noticed()) || (await allLeft()));
    await bench.faults({ ostrel: off });
    if ((await bounds()) === before && (await trunkState())?.state === 'bound') await bench.post('/ostrel/cut');
  };
  const lost = async () => (await trunkState())?.state !== 'bound';
  const disturb = [
    () => installation.restartStandins(),
    () => fault({ silent: true }, { silent: false }, lost),
    () => fault({ slowAnswers: 1300 }, { slowAnswers: 0 }, async () => ((await trunkState())?.unanswered ?? 0) > 0),
    () => bench.post('/ostrel/cut'),
    () => fault({ cutsBeforeAnswer: true }, { cutsBeforeAnswer: false }, lost),
  ];
  const takenOf = async (cut: number) =>
    (await bench.ostrelTexts()).filter(({ text }) => text.startsWith(`Cut ${cut},`)).length;
  const ids: string[] = [];
  for (let cut = 0; cut < CUTS; cut++) {
    // Every cut falls into texts of its own, however slowly the ones before were worked off.
    ids.push(...(await queueTexts(installation, 100, trunk.channel.id, `Cut ${cut + 1}, text`)));
    await until('some of them have left', async () => (await takenOf(cut + 1)) > 0);
    const before = await bounds();
    await disturb[cut % disturb.length]?.();
    // A killed carrier has forgotten what its console was told.
    await bench.change(`ostrel/logins/${login}`, { perSecond: 2000 });
    await until(`it is bound again after cut ${cut + 1}`, async () => (await bounds()) > before);
  }
  await until('nothing is due any more', allLeft);
  await until(
    'receipts have settled what they can',
    async () => (await ctx.store.messages.count({ id: ids, state: ['queued', 'sending', 'sent'] })) === 0,
  );
  const states = await ctx.store.select<{ state: string; n: number }>(
    `SELECT state, count(*) AS n FROM messages WHERE direction = 'out' GROUP BY state`,
  );
  const byState = Object.fromEntries(states.map((row) => [row.state, row.n]));
  const copies = new Map<string, number>();
  for (const entry of await bench.ostrelTexts()) copies.set(entry.text, (copies.get(entry.text) ?? 0) + 1);
  const doubled = [...copies.values()].filter((n) => n > 1).length;
  const state = await ctx.store.trunkStates.one({ account_id: trunk.accountId });
  console.log(
    byState,
    `carrier took ${copies.size} different texts, ${doubled} more than once; bound ${state?.reconnects} times`,
  );
  expect(doubled).toBe(0);
  expect((byState.delivered ?? 0) + (byState.uncertain ?? 0)).toBe(CUTS * 100);
  // What the carrier does not have is among those that say they are uncertain.
  expect(CUTS * 100 - copies.size).toBeLessThanOrEqual(byState.uncertain ?? 0);
  expect(state?.reconnects ?? 0).toBeGreaterThanOrEqual(CUTS + 1);
  await killHard(installation.engine);
});
