/** Texts that an engine left behind: taken over by what is known of them, and never sent twice because a row is damaged. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { claimDue, dueChannels, recoverClaims } from '../src/operations/outbound/claims';
import { createSender } from '../src/operations/outbound/sendMessage';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { connectTrunk, type Trunk } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';

let house: Installation;
let mossgate: Mossgate;
let trunk: Trunk;

beforeAll(async () => {
  house = await startInstallation({ engine: false });
  mossgate = await connectMossgate(house);
  trunk = await connectTrunk(house);
});
afterAll(() => house.stop());

const damage = (sql: string, id: string) => house.ctx.store.write((unit) => unit.execute(sql, { id }));

/** One text over each, claimed by an engine that is no more. */
async function claimed(): Promise<{ overTrunk: string; overHttp: string }> {
  const { ctx } = house;
  const order = async (from: string) =>
    (await createSender(ctx)(SYSTEM, { to: INES, from, text: 'Handed over' })).message.id;
  const [overTrunk, overHttp] = [await order(trunk.channel.id), await order(mossgate.channel.id)];
  for (const line of (await dueChannels(ctx)).lines)
    await claimDue(ctx, line, { all: 10, bulk: 10 }, 'an engine before');
  return { overTrunk, overHttp };
}

const entry = (id: string) => house.ctx.store.outbox.one({ message_id: id });
const stateOf = async (id: string) =>
  (await house.ctx.store.select<{ state: string }>('SELECT state FROM messages WHERE id = :id', { id }))[0]?.state;

test('where the set-up is damaged, what a carrier may have is not sent again', async () => {
  const { overTrunk, overHttp } = await claimed();
  await damage(`UPDATE provider_accounts SET facts = '{"half' WHERE id = :id`, trunk.accountId);
  expect(await recoverClaims(house.ctx)).toEqual({ resumed: 1, uncertain: 1 });
  expect([(await entry(overTrunk))?.state, (await entry(overHttp))?.state]).toEqual(['uncertain', 'due']);
  await damage(`UPDATE provider_accounts SET facts = '{}' WHERE id = :id`, trunk.accountId);
});

test('where the text itself is damaged, neither; it waits for a person, who sees that it is uncertain', async () => {
  const { ctx } = house;
  const { overTrunk, overHttp } = await claimed();
  for (const id of [overTrunk, overHttp]) await damage(`UPDATE messages SET media = '{"half' WHERE id = :id`, id);
  expect(await recoverClaims(ctx)).toMatchObject({ uncertain: 1 });
  expect([(await entry(overTrunk))?.state, await stateOf(overTrunk)]).toEqual(['uncertain', 'uncertain']);
  // A provider that knows the reference is asked again.
  expect((await entry(overHttp))?.state).toBe('due');
  await damage('UPDATE messages SET media = NULL WHERE id = :id', overTrunk);
  // Nothing of it is due, whatever is repaired.
  await recoverClaims(ctx);
  expect((await entry(overTrunk))?.state).toBe('uncertain');
  const events = await ctx.store.events.all({ message_id: overTrunk }, { order: [['id', 'ASC']] });
  expect(events.at(-1)).toMatchObject({ kind: 'uncertain', cause: 'outcome-unknown' });
});
