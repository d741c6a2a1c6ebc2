/** “Prove now”: exercises one hop of a channel on purpose, with a phone the administrator can see. */
import { type ChannelKind, channelKind } from '../../core/connect/channelKinds';
import { type BenchState, hasBench, readBench, typeOnHandset } from '../bench';
import { type Actor, type AppContext, requireReached, requireRole } from '../context';
import { loadChannel } from './channels';

/** Phones, or mailboxes for mail, that stand on the bench; none where no bench is attached. */
export async function benchPhones(
  ctx: AppContext,
  actor: Actor,
  kind: ChannelKind,
): Promise<{ number: string; owner: string }[]> {
  if (!hasBench(ctx)) return [];
  const bench: BenchState | undefined = await readBench(ctx, actor).catch(() => undefined);
  const mail = channelKind(kind).subjects ?? false;
  const fitting = (bench?.handsets ?? []).filter(({ mailbox = false }) => mailbox === mail);
  return fitting.map(({ number, owner }) => ({ number, owner }));
}

/** Writes to the channel from a handset on the bench, the way its kind is written to. */
export async function proveInbound(ctx: AppContext, actor: Actor, channelId: string, handset: string): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const { channel } = await loadChannel(ctx, channelId);
  await typeOnHandset(ctx, actor, {
    number: handset,
    to: channel.address,
    text: 'Does this reach you?',
    way: channelKind(channel.kind).handset ?? 'text',
  });
}
