/** Business chat connected to Tarrow, with one of its lines as a channel. */
import { readFileSync } from 'node:fs';
import { rulesOf } from '../../src/connectors/http/templates';
import { readProfile } from '../../src/connectors/profile/readProfile';
import type { TemplateRules } from '../../src/core/templates/rules';
import { connectProvider } from '../../src/operations/accounts/accounts';
import { subscribeToEvents } from '../../src/operations/accounts/providerChanges';
import { handOverForMe, openChannel } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import type { ChannelRow } from '../../src/store/schema/rows';
import type { Installation } from './processes';

export function tarrowCredentials({ world }: Installation, line = 0) {
  const business = world.tarrow[0] as Installation['world']['tarrow'][number];
  return {
    apiAddress: `http://127.0.0.1:${world.ports.tarrow}/api/7`,
    businessId: business.id,
    numberId: business.lines[line]?.id ?? '',
    token: business.token.value,
    signingKey: business.signingKey,
  };
}

export async function connectTarrow(
  installation: Installation,
  options: { handOver?: boolean; subscribe?: boolean } = {},
): Promise<{ accountId: string; channel: ChannelRow; businessId: string }> {
  const { ctx, world } = installation;
  const { id: accountId } = await connectProvider(ctx, SYSTEM, {
    connector: 'tarrow',
    name: 'Tarrow',
    credentials: tarrowCredentials(installation),
  });
  const line = world.tarrow[0]?.lines[0];
  const number = await ctx.store.numbers.one({ account_id: accountId, address: line?.phone ?? '' });
  const { id } = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Harbour chat' });
  if (options.handOver !== false) await handOverForMe(ctx, SYSTEM, id);
  if (options.subscribe !== false) await subscribeToEvents(ctx, SYSTEM, accountId);
  const channel = await ctx.store.channels.one({ id });
  if (!channel) throw new Error('The channel just opened is gone');
  return { accountId, channel, businessId: world.tarrow[0]?.id ?? '' };
}

/** The platform's demands of templates, as the shipped profile has them. */
export function tarrowRules(): TemplateRules {
  const profile = readProfile(readFileSync('src/connectors/profiles/tarrow.yaml', 'utf8'), 'tarrow');
  if (profile.kind !== 'business-chat' || !profile.templates) throw new Error('Tarrow’s profile has no templates');
  return rulesOf(profile.templates);
}
