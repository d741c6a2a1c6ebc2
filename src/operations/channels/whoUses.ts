/** Who receives what comes over a channel, and who may write over it first. */
import { type Actor, type AppContext, found, reachesChannel, reachOf, requireReached, requireRole } from '../context';

export interface ChannelPeople {
  /** The team it belongs to; null where it is everybody's. */
  team: string | null;
  receive: string[];
  /** Of those, who may write to people that never wrote. */
  begin: string[];
}

export async function readChannelPeople(ctx: AppContext, actor: Actor, channelId: string): Promise<ChannelPeople> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const channel = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const working = (await ctx.store.users.all({ disabled_at: null }, { order: [['name', 'ASC']] })).filter(
    ({ role }) => role !== 'viewer',
  );
  const closed = channel.team !== null && (await ctx.store.teams.one({ name: channel.team }))?.members_only === 1;
  const receiving = closed
    ? (
        await Promise.all(
          working.map(async (user) => {
            const reach = await reachOf(ctx.store, { kind: 'user', id: user.id, name: user.name, role: user.role });
            return reachesChannel(reach, channelId) ? [user] : [];
          }),
        )
      ).flat()
    : working;
  return {
    team: channel.team,
    receive: receiving.map(({ name }) => name),
    begin: receiving.filter(({ may_start }) => may_start === 1).map(({ name }) => name),
  };
}
