/** The engine killed again and again while it sends, as a power cut would. */
import { afterEach, describe, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/actor';
import { settleUncertain } from '../src/operations/dispatch';
import { createSender } from '../src/operations/sending';
import { connectMossgate, INES } from './harness/mossgate';
import { brackwaterProfile, type Installation, killHard, startInstallation, until } from './harness/processes';

let installation: Installation;
afterEach(() => installation.stop());

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('the engine is killed again and again while it sends', () => {
  async function sendThroughKills(connector: string, ignoresReferences: boolean, kills: number, total: number) {
    const { w, bench } = installation;
    await connectMossgate(installation, connector, 500);
    await bench.faults({ brackwater: { ignoresReferences } });
    // Answers take a moment, so that a kill often falls between the provider's yes and our note of it.
    await bench.faults({ brackwater: { slowAnswers: 60 } });
    const send = createSender(w);
    const sent = await Promise.all(
      Array.from({ length: total }, (_, index) => send(SYSTEM, { to: INES, text: `Notice ${index}` })),
    );
    for (let kill = 0; kill < kills; kill++) {
      await installation.startEngine();
      await until(
        'it is sending',
        async () =>
          (await w.store.outbox.count({ state: 'leased', lease_owner: `engine-${installation.engine?.pid}` })) > 0,
      );
      await pause(30 + ((kill * 37) % 90));
      await killHard(installation.engine);
    }
    await installation.startEngine();
    await until(
      'nothing is due any more',
      async () => (await w.store.outbox.count({ state: ['due', 'leased'] })) === 0,
      90_000,
    );
    const ids = sent.map((answer) => answer.message.id);
    await until(
      'every receipt is in',
      async () => (await w.store.messages.count({ id: ids, state: ['queued', 'sending', 'sent'] })) === 0,
      60_000,
    );
    const states = await w.store.select<{ state: string; n: number }>(
      `SELECT state, count(*) AS n FROM messages WHERE direction = 'out' GROUP BY state`,
    );
    const copies = new Map<string, number>();
    for (const entry of (await bench.texts()).filter((text) => text.direction === 'out'))
      copies.set(entry.text, (copies.get(entry.text) ?? 0) + 1);
    const counts = Object.fromEntries(states.map((row) => [row.state, row.n]));
    console.log(
      connector,
      counts,
      `provider took ${copies.size} different texts, ${[...copies.values()].filter((n) => n > 1).length} more than once`,
    );
    return { counts, copies, ids };
  }

  test('20 kills in 500 sends, the provider honours our reference: every message once', async () => {
    installation = await startInstallation({
      engine: false,
      web: true,
      perSecond: 2000,
      profiles: { 'quick.yaml': brackwaterProfile('quick', (text) => text.replace('pace: 25', 'pace: 500')) },
    });
    const { counts, copies } = await sendThroughKills('quick', false, 20, 500);
    expect(counts).toEqual({ delivered: 500 });
    expect(copies.size).toBe(500);
    expect([...copies.values()].every((n) => n === 1)).toBe(true);
  }, 240_000);

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
    const { counts, copies } = await sendThroughKills('forgetful', true, 10, 250);
    expect((counts.delivered ?? 0) + (counts.uncertain ?? 0)).toBe(250);
    expect([...copies.values()].every((n) => n === 1)).toBe(true);
    // A message that is not at the provider is one of those that say they are uncertain.
    expect(250 - copies.size).toBeLessThanOrEqual(counts.uncertain ?? 0);
    expect(counts.uncertain ?? 0).toBeGreaterThan(1);

    // A person decides about what nobody can know.
    const { w } = installation;
    const [one, other] = await w.store.messages.all({ state: 'uncertain' }, { limit: 2 });
    if (!one || !other) throw new Error('There were two');
    await settleUncertain(w, SYSTEM, one.id, 'arrived');
    await settleUncertain(w, SYSTEM, other.id, 'send-again');
    expect((await w.store.messages.one({ id: one.id }))?.state).toBe('delivered');
    await until(
      'the other was sent again and arrived',
      async () => (await w.store.messages.one({ id: other.id }))?.state === 'delivered',
    );
    await expect(settleUncertain(w, SYSTEM, one.id, 'send-again')).rejects.toMatchObject({ kind: 'conflict' });
  }, 240_000);
});
