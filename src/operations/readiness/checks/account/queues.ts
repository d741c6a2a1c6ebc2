/** Channels whose queue has stood for too long. */
import { type AccountCheck, channelSubject, finding } from '../check';

const TOO_LONG = 2 * 60_000;

export const queues: AccountCheck = {
  name: 'queues',
  async prepare({ ctx, now }) {
    const waiting = await ctx.store.select<{ channel: string; since: number; n: number }>(
      `SELECT channel_id AS channel, min(due_at) AS since, count(*) AS n FROM outbox WHERE state = 'due' AND due_at <= :now GROUP BY 1`,
      { now },
    );
    return (account, own) =>
      account.disabled_at !== null
        ? []
        : own.flatMap((channel) => {
            const queue = waiting.find((each) => each.channel === channel.id);
            if (!queue || now - queue.since <= TOO_LONG) return [];
            const context = { subject: channel.name, said: `${queue.n} wait` };
            return [finding('queue-behind', 'attention', channelSubject(channel), context, { since: queue.since })];
          });
  },
};
