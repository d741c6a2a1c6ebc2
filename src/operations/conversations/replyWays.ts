/** Over which channels a contact can be answered, which of them is the one, and why. */
import { promisedChannel } from '../../core/connect/webChat';
import { identityKey } from '../../core/identities/identityKinds';
import { decideReply } from '../../core/replies/replyWay';
import type { ChannelRow } from '../../store/schema/rows';
import { agreedOver, holdsOver } from '../contacts';
import { type Actor, type AppContext, reachesChannel, reachOf, requireRole } from '../context';
import { reachedOn } from '../identities';
import type { ConversationSummary } from './conversations';
import { type ReplyState, replyState } from './replyOptions';

export interface OpenWay {
  channelId: string;
  name: string;
  /** Why nothing can be sent over it now. */
  refused?: string;
}

export interface ReplyWays {
  /** Every channel over which they are known, the one they wrote on last first. */
  ways: OpenWay[];
  /** The channel of the answer; absent where somebody has to choose. */
  channelId?: string;
  /** Why it is this one, or why one has to be chosen. */
  reason: string;
  /** What holds for an answer over the channel; absent where there is none. */
  reply?: ReplyState;
  /** The last message they wrote over it. */
  lastInbound?: string;
}

/** `over`: the channel somebody chose, instead of the one that follows from what the person did. */
export async function replyWays(
  ctx: AppContext,
  actor: Actor,
  { contactId }: Pick<ConversationSummary, 'contactId'>,
  over?: string,
): Promise<ReplyWays> {
  requireRole(actor, 'viewer');
  const [reach, channels, identities, inbound] = await Promise.all([
    reachOf(ctx.store, actor),
    ctx.store.channels.all({}, { order: [['name', 'ASC']] }),
    ctx.store.identities.all({ contact_id: contactId }),
    ctx.store.select<{ channel: string; at: number; id: string }>(
      `SELECT channel_id AS channel, max(created_at) AS at, max(id) AS id FROM messages
        WHERE direction = 'in' AND automatic IS NULL AND conversation_id IN (SELECT id FROM conversations WHERE contact_id = :contactId)
        GROUP BY channel_id`,
      { contactId },
    ),
  ]);
  const wrote = new Map(inbound.map((row) => [row.channel, row]));
  const agreed = await agreedOver(ctx.store, contactId, identities);
  const agreesOver = (channel: ChannelRow) => {
    const reached = reachedOn(channel, identities);
    return reached !== undefined && holdsOver(agreed.get(identityKey(reached)) ?? [], channel);
  };
  const promised = new Set(channels.filter(({ id }) => wrote.has(id)).map(({ settings }) => promisedChannel(settings)));
  const candidates = channels.filter(
    (channel) =>
      wrote.has(channel.id) ||
      promised.has(channel.id) ||
      (reachesChannel(reach, channel.id) && reachedOn(channel, identities) !== undefined),
  );
  const states = new Map(
    await Promise.all(
      candidates.map(async ({ id }) => [id, await replyState(ctx, actor, { channelId: id, contactId })] as const),
    ),
  );
  const ways = candidates
    .map((channel) => ({
      channelId: channel.id,
      name: channel.name,
      to: states.get(channel.id)?.to || undefined,
      wroteAt: wrote.get(channel.id)?.at,
      refused: states.get(channel.id)?.refused?.problem,
      agreed: agreesOver(channel),
      answeredOver: promisedChannel(channel.settings),
    }))
    .sort((a, b) => (b.wroteAt ?? 0) - (a.wroteAt ?? 0));
  const decided = decideReply(ways);
  const chosen = over === undefined ? undefined : ways.find(({ channelId }) => channelId === over);
  // Where nothing can be sent, what stands against it is shown of the channel they wrote on.
  const channelId = chosen?.channelId ?? decided.channelId;
  const shown = channelId ?? (ways.some(({ refused }) => refused === undefined) ? undefined : ways[0]?.channelId);
  return {
    ways: ways.map(({ channelId: id, name, refused }) => ({ channelId: id, name, refused })),
    channelId: channelId ?? shown,
    reason:
      chosen && chosen.channelId !== decided.channelId
        ? `You chose ${chosen.name}. ${decided.channelId === undefined ? '' : decided.reason}`.trim()
        : decided.reason,
    reply: shown === undefined ? undefined : states.get(shown),
    lastInbound: shown === undefined ? undefined : wrote.get(shown)?.id,
  };
}
