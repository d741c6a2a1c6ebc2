/** “Prove now”: exercises one hop of a channel on purpose, with a phone the administrator can see. */
import type { ChannelKind } from '../core/connect/facts';
import { type Actor, requireRole } from './actor';
import { type BenchState, hasBench, readBench, typeOnHandset } from './bench';
import { loadChannel } from './channels';
import type { Windgap } from './windgap';

export const WAYS: Partial<Record<ChannelKind, 'text' | 'chat' | 'mail'>> = {
  'sms-http': 'text',
  'sms-trunk': 'text',
  'business-chat': 'chat',
  'email-gateway': 'mail',
};

/** Phones that stand on the bench; none where no bench is attached. */
export async function benchPhones(w: Windgap, actor: Actor): Promise<{ number: string; owner: string }[]> {
  if (!hasBench(w)) return [];
  const bench: BenchState | undefined = await readBench(w, actor).catch(() => undefined);
  return (bench?.handsets ?? []).map(({ number, owner }) => ({ number, owner }));
}

/** Writes to the channel from a handset on the bench, the way its kind is written to. */
export async function proveInbound(w: Windgap, actor: Actor, channelId: string, handset: string): Promise<void> {
  requireRole(actor, 'administrator');
  const { channel } = await loadChannel(w, channelId);
  await typeOnHandset(w, actor, {
    number: handset,
    to: channel.address,
    text: 'Does this reach you?',
    way: WAYS[channel.kind] ?? 'text',
  });
}
