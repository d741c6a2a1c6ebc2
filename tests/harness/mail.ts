/** Texts by mail over Fennick, with the gateways of two carriers. */
import { connectProvider } from '../../src/operations/accounts/accounts';
import { markHandedOver, openChannel } from '../../src/operations/channels/channels';
import { type Actor, SYSTEM } from '../../src/operations/context/actor';
import { inboundUrl } from '../../src/operations/context/channelAddresses';
import { saveGateway } from '../../src/operations/outbound/carrierLookUp';
import { setMailAccount } from '../../src/operations/people/mailNotices';
import type { ChannelRow } from '../../src/store/schema/rows';
import type { Installation } from './processes';

const WORD = 'heron-and-otter';

export function mailCredentials({ world: { ports, fennick } }: Installation) {
  const account = fennick.accounts[0];
  return {
    host: '127.0.0.1',
    port: String(ports.fennickMail),
    user: account?.user ?? '',
    password: account?.password ?? '',
    address: account?.address ?? '',
    lookupAddress: `http://127.0.0.1:${ports.fennick}`,
    lookupKey: account?.lookupKey ?? '',
    word: WORD,
  };
}

/** Has notices to people leave through Fennick, after a mail to show that they do. */
export function sendNotices(installation: Installation, trialTo: string, actor: Actor = SYSTEM): Promise<void> {
  const { host, port, user, password, address } = mailCredentials(installation);
  return setMailAccount(installation.ctx, actor, { host, port, user, password, from: address, trialTo });
}

export async function connectMail(installation: Installation): Promise<ChannelRow> {
  const { ctx, bench, world } = installation;
  const { id } = await connectProvider(ctx, SYSTEM, {
    connector: 'fennick',
    name: 'Fennick',
    credentials: mailCredentials(installation),
  });
  const number = await ctx.store.numbers.one({ account_id: id });
  const opened = await openChannel(ctx, SYSTEM, {
    numberId: number?.id ?? '',
    name: 'Mail desk',
    defaultCountry: 'GB',
  });
  const channel = await ctx.store.channels.one({ id: opened.id });
  if (!channel) throw new Error('The channel just opened is gone');
  await bench.change(`fennick/accounts/${world.fennick.accounts[0]?.user}`, {
    hook: { url: inboundUrl(ctx, channel), word: WORD },
  });
  await markHandedOver(ctx, SYSTEM, channel.id);
  await saveGateway(ctx, SYSTEM, {
    carrier: 'Otterline',
    country: 'GB',
    domain: 'text.otterline.example',
    localPart: 'international',
  });
  return channel;
}

/** A mailbox at Fennick as a channel: mail both ways. */
export async function connectMailbox(installation: Installation): Promise<ChannelRow> {
  const { ctx, bench, world } = installation;
  const account = world.fennick.accounts.find(({ posts }) => posts === 'whole');
  const { id } = await connectProvider(ctx, SYSTEM, {
    connector: 'fennick-mailbox',
    name: 'Mailbox',
    credentials: {
      host: '127.0.0.1',
      port: String(world.ports.fennickMail),
      user: account?.user ?? '',
      password: account?.password ?? '',
      address: account?.address ?? '',
      word: WORD,
    },
  });
  const number = await ctx.store.numbers.one({ account_id: id });
  const opened = await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Post desk' });
  const channel = await ctx.store.channels.one({ id: opened.id });
  if (!channel) throw new Error('The channel just opened is gone');
  await bench.change(`fennick/accounts/${account?.user}`, {
    hook: { url: inboundUrl(ctx, channel), word: WORD },
  });
  await markHandedOver(ctx, SYSTEM, channel.id);
  return channel;
}
