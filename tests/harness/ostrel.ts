/** A trunk connected to Ostrel, with one of its numbers as a channel. */
import { connectProvider } from '../../src/operations/accounts/accounts';
import { addTrunkNumbers } from '../../src/operations/accounts/trunkNumbers';
import { openChannel } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import { setTrunkSettings } from '../../src/operations/trunks/trunkSettings';
import type { ChannelRow } from '../../src/store/schema/rows';
import type { Installation } from './processes';
import { until } from './until';

export interface Trunk {
  accountId: string;
  channel: ChannelRow;
  numberId: string;
}

export function trunkCredentials({ world }: Installation, login = 0) {
  const remote = world.ostrel[login] as Installation['world']['ostrel'][number];
  return {
    host: '127.0.0.1',
    port: String(world.ports.ostrel),
    systemId: remote.systemId,
    password: remote.password,
  };
}

export async function connectTrunk(
  installation: Installation,
  options: { connector?: string; number?: string; settings?: Record<string, unknown>; name?: string } = {},
): Promise<Trunk> {
  const { ctx } = installation;
  const { connector = 'ostrel', number = '+447700900890', settings, name = 'Passage notices' } = options;
  const { id: accountId } = await connectProvider(ctx, SYSTEM, {
    connector,
    name: `Trunk ${name}`,
    credentials: trunkCredentials(installation),
  });
  if (settings) await setTrunkSettings(ctx, SYSTEM, accountId, settings);
  await addTrunkNumbers(ctx, SYSTEM, accountId, { text: number, country: 'GB' });
  const row = await ctx.store.numbers.one({ account_id: accountId, address: number });
  const { id } = await openChannel(ctx, SYSTEM, { numberId: row?.id ?? '', name });
  const channel = await ctx.store.channels.one({ id });
  if (!channel) throw new Error('The channel just opened is gone');
  return { accountId, channel, numberId: row?.id ?? '' };
}

export function untilBound({ ctx }: Installation, accountId: string) {
  return until('the trunk is bound', async () => {
    const state = await ctx.store.trunkStates.one({ account_id: accountId });
    return state?.state === 'bound' && ctx.now() - state.written_at < 3000;
  });
}
