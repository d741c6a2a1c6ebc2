/** What came in is kept, whichever process is killed before it is worked through. */
import { afterEach, expect, test } from 'vitest';
import { counts } from './harness/chaos';
import { connectMossgate, INES, postSigned, textIn } from './harness/mossgate';
import { type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
afterEach(() => installation.stop());

test('a burst of signed posts at concurrency 32 while the web process is killed and restarted', async () => {
  installation = await startInstallation();
  const { ctx } = installation;
  const mossgate = await connectMossgate(installation);
  const total = counts(600, 2000);
  const answered: string[] = [];
  let cutOff = 0;
  let next = 0;
  const listens = async () => (await fetch(`${installation.origin}/health`).catch(() => undefined))?.ok;

  /** Posts as a provider does: again and again until it is answered 2xx. */
  async function poster() {
    while (next < total) {
      const index = next++;
      const id = `bwt_burst${index}`;
      const body = textIn(
        id,
        `+447700900${String(index % 1000).padStart(3, '0')}`,
        mossgate.channel.address,
        `burst ${index}`,
      );
      for (;;) {
        const status = await postSigned(mossgate.inboundUrl, mossgate.secret, body).catch(() => 0);
        if (status >= 200 && status < 300) break;
        cutOff += 1;
        // As a provider would, when it is told that nobody is there.
        await until('somebody listens', listens);
      }
      answered.push(id);
    }
  }
  const burst = Promise.all(Array.from({ length: 32 }, poster));
  await until('a third has been answered', () => answered.length > total / 3);
  await killHard(installation.web);
  await installation.startWeb();
  await burst;

  expect(answered.length).toBe(total);
  expect(cutOff).toBeGreaterThan(0);
  await until(
    'everything stored is worked through',
    async () => (await ctx.store.inbound.count({ state: 'stored' })) === 0,
  );
  const rows = await ctx.store.select<{ provider_message_id: string; n: number; threads: number }>(
    `SELECT m.provider_message_id, count(*) AS n, count(v.id) AS threads FROM messages m LEFT JOIN conversations v ON v.id = m.conversation_id
      WHERE m.direction = 'in' GROUP BY m.provider_message_id`,
  );
  const found = new Map(rows.map((row) => [row.provider_message_id, row]));
  const missing = answered.filter((id) => !found.has(id));
  console.log(`answered ${answered.length}, cut off and posted again ${cutOff}, in the database ${found.size}`);
  expect(missing).toEqual([]);
  expect(rows.filter((row) => row.n !== 1 || row.threads !== 1)).toEqual([]);
  expect(await ctx.store.inbound.count({ state: ['refused', 'unreadable'] })).toBe(0);
});

test('after a restart posts are taken before there are pages', async () => {
  installation = await startInstallation({ engine: false });
  const mossgate = await connectMossgate(installation);
  /** How long a post was taken before there were pages; near zero where this process was too slow to ask in between. */
  const between = async (round: number): Promise<number> => {
    await killHard(installation.web);
    const started = installation.startWeb();
    const pages = until('there are pages', () => answers(`${installation.origin}/health`), 5).then(() => Date.now());
    const body = textIn(`bwt_early${round}`, INES, mossgate.channel.address, 'Is anybody up?');
    await until(
      'the post is taken',
      async () => (await postSigned(mossgate.inboundUrl, mossgate.secret, body).catch(() => 0)) === 202,
      5,
    );
    const taken = Date.now();
    await started;
    return (await pages) - taken;
  };
  const answers = (url: string) =>
    fetch(url).then(
      ({ ok }) => ok,
      () => false,
    );
  let longest = 0;
  for (let round = 0; round < 6 && longest <= 40; round++) longest = await between(round);
  console.log(`a post was taken ${longest} ms before there were pages`);
  // Where pages had to be there first, it would be so in no round.
  expect(longest).toBeGreaterThan(40);
});

test('the engine is killed between storing and reading: nothing is lost or doubled', async () => {
  installation = await startInstallation({ engine: false });
  const { ctx } = installation;
  const mossgate = await connectMossgate(installation);
  for (let index = 0; index < 60; index++) {
    await postSigned(
      mossgate.inboundUrl,
      mossgate.secret,
      textIn(`bwt_k${index}`, INES, mossgate.channel.address, `kept ${index}`),
    );
  }
  expect(await ctx.store.messages.count()).toBe(0);
  for (let round = 0; round < counts(2, 5); round++) {
    await installation.startEngine();
    // At another place of its way each time, or when all are read already.
    const read = await ctx.store.messages.count();
    await until('it got somewhere', async () => {
      const now = await ctx.store.messages.count();
      return now > read || now === 60 || round % 2 === 0;
    });
    await killHard(installation.engine);
  }
  await installation.startEngine();
  await until('all are read', async () => (await ctx.store.messages.count({ direction: 'in' })) === 60);
  await until(
    'the app has all of them',
    async () => new Set((await installation.bench.lockbook()).events.map((event) => event.message?.text)).size === 60,
  );
});
