/** The engine killed again and again while it sends, as a power cut would. */
import { afterEach, describe, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { settleUncertain } from '../src/operations/outbound/answers';
import { createSender } from '../src/operations/outbound/sendMessage';
import { counts } from './harness/chaos';
import { connectMossgate, INES } from './harness/mossgate';
import { brackwaterProfile, type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
afterEach(() => installation.stop());

describe('the engine is killed again and again while it sends', () => {
  async function sendThroughKills(connector: string, ignoresReferences: boolean, kills: number, total: number) {
    const { ctx, bench } = installation;
    await connectMossgate(installation, connector, 500);
    await bench.faults({ brackwater: { ignoresReferences } });
    // Answers take a moment, so that a kill often falls between the provider's yes and our note of it.
    await bench.faults({ brackwater: { slowAnswers: 60 } });
    const send = createSender(ctx);
    const sent = await Promise.all(
      Array.from({ length: total }, (_, index) => send(SYSTEM, { to: INES, text: `Notice ${index}` })),
    );
    for (let kill = 0; kill < kills; kill++) {
      await installation.startEngine();
      await until(
        'it is sending',
        async () =>
          (await ctx.store.outbox.count({ state: 'leased', lease_owner: `engine-${installation.engine?.pid}` })) > 0,
      );
      // At another moment of what is under way each time.
      const before = (await bench.texts()).length;
      const more = (kill * 7) % 12;
      await until(
        'so many more have left',
        async () =>
          (await bench.texts()).length >= before + more ||
          (await ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0,
        5,
      );
      await killHard(installation.engine);
    }
    await installation.startEngine();
    await until(
      'nothing is due any more',
      async () => (await ctx.store.outbox.count({ state: ['due', 'leased'] })) === 0,
    );
    const ids = sent.map((answer) => answer.message.id);
    await until(
      'every receipt is in',
      async () => (await ctx.store.messages.count({ id: ids, state: ['queued', 'sending', 'sent'] })) === 0,
    );
    const rows = await ctx.store.select<{ state: string; n: number }>(
      `SELECT state, count(*) AS n FROM messages WHERE direction = 'out' GROUP BY state`,
    );
    const copies = new Map<string, number>();
    for (const entry of (await bench.texts()).filter((text) => text.direction === 'out'))
      copies.set(entry.text, (copies.get(entry.text) ?? 0) + 1);
    const states = Object.fromEntries(rows.map((row) => [row.state, row.n]));
    console.log(
      connector,
      states,
      `provider took ${copies.size} different texts, ${[...copies.values()].filter((n) => n > 1).length} more than once`,
    );
    return { states, copies, ids };
  }

  const { kills, total } = counts({ kills: 6, total: 200 }, { kills: 20, total: 500 });

  test(`${kills} kills in ${total} sends, the provider honours our reference: every message once`, async () => {
    installation = await startInstallation({
      engine: false,
      web: true,
      perSecond: 2000,
      profiles: { 'quick.yaml': brackwaterProfile('quick', (text) => text.replace('pace: 25', 'pace: 500')) },
    });
    const { states, copies } = await sendThroughKills('quick', false, kills, total);
    expect(states).toEqual({ delivered: total });
    expect(copies.size).toBe(total);
    expect([...copies.values()].every((n) => n === 1)).toBe(true);
  });

  test('the provider does not: none twice, none silently lost, and the uncertain ones say so', async () => {
    const forgetful = brackwaterProfile('forgetful', (text) =>
      text
        .replace('pace: 25', 'pace: 500')
        .replace('honoursReference: true', 'honoursReference: false')
        .replace(/\n {4}reference: \$\.reference/, ''),
    );
    installation = await startInstallation({
      engine: false,
      web: true,
      perSecond: 2000,
      profiles: { 'forgetful.yaml': forgetful },
    });
    const { states, copies } = await sendThroughKills('forgetful', true, kills, total);
    expect((states.delivered ?? 0) + (states.uncertain ?? 0)).toBe(total);
    expect([...copies.values()].every((n) => n === 1)).toBe(true);
    // A message that is not at the provider is one of those that say they are uncertain.
    expect(total - copies.size).toBeLessThanOrEqual(states.uncertain ?? 0);
    expect(states.uncertain ?? 0).toBeGreaterThan(1);

    // A person decides about what nobody can know.
    const { ctx } = installation;
    const [one, other] = await ctx.store.messages.all({ state: 'uncertain' }, { limit: 2 });
    if (!one || !other) throw new Error('There were two');
    await settleUncertain(ctx, SYSTEM, one.id, 'arrived');
    await settleUncertain(ctx, SYSTEM, other.id, 'send-again');
    expect((await ctx.store.messages.one({ id: one.id }))?.state).toBe('delivered');
    await until(
      'the other was sent again and arrived',
      async () => (await ctx.store.messages.one({ id: other.id }))?.state === 'delivered',
    );
    await expect(settleUncertain(ctx, SYSTEM, one.id, 'send-again')).rejects.toMatchObject({ kind: 'conflict' });
  });
});
