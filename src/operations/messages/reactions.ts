/** Signs that people put to messages of ours. */
import type { ReactionItem } from '../../connectors/connector';
import type { Unit } from '../../store/store';
import { noteMessages } from '../context';

/** Keeps the latest sign of each message, and forgets one that was taken away; what is about no message of ours changes nothing. */
export async function applyReactions(
  unit: Unit,
  received: readonly { item: ReactionItem; channelIds: readonly string[] }[],
  now: number,
): Promise<void> {
  for (const { item, channelIds } of received) {
    const at = item.at ?? now;
    const [message] = await unit.messages.all({
      provider_message_id: item.providerMessageId,
      channel_id: [...channelIds],
      direction: 'out',
    });
    if (!message) continue;
    const before = await unit.reactions.one({ message_id: message.id });
    // Posts overtake one another.
    if (before && before.at > at) continue;
    if (item.sign) await unit.reactions.put({ message_id: message.id, sign: item.sign, at });
    else await unit.reactions.remove({ message_id: message.id });
    await noteMessages(unit, now, [message]);
  }
}
