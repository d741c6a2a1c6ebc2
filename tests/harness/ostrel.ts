/** A trunk connected to Ostrel, with one of its numbers as a channel. */
import { connectProvider } from '../../src/operations/accounts';
import { SYSTEM } from '../../src/operations/actor';
import { openChannel } from '../../src/operations/channels';
import { addTrunkNumbers } from '../../src/operations/numbers';
import { setTrunkSettings } from '../../src/operations/trunks';
import type { ChannelRow } from '../../src/store/rows';
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
  const { w } = installation;
  const { connector = 'ostrel', number = '+447700900890', settings, name = 'Passage notices' } = options;
  const { id: accountId } = await connectProvider(w, SYSTEM, {
    connector,
    name: `Trunk ${name}`,
    credentials: trunkCredentials(installation),
  });
  if (settings) await setTrunkSettings(w, SYSTEM, accountId, settings);
  await addTrunkNumbers(w, SYSTEM, accountId, { text: number, country: 'GB' });
  const row = await w.store.numbers.one({ account_id: accountId, address: number });
  const { id } = await openChannel(w, SYSTEM, { numberId: row?.id ?? '', name });
  const channel = await w.store.channels.one({ id });
  if (!channel) throw new Error('The channel just opened is gone');
  return { accountId, channel, numberId: row?.id ?? '' };
}

export function untilBound({ w }: Installation, accountId: string) {
  return until('the trunk is bound', async () => {
    const state = await w.store.trunkStates.one({ account_id: accountId });
    return state?.state === 'bound' && w.now() - state.written_at < 3000;
  });
}
