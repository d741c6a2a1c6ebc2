/** Stored requests of the last days that could not be worked through, with what the latest failed of. */
import { cause } from '../../../../core/delivery/causes';
import { type AccountCheck, channelSubject } from '../check';

const DAYS = 7;

export const setAside: AccountCheck = {
  name: 'set-aside',
  async prepare({ ctx, now }) {
    const aside = await ctx.store.select<{ channel: string; n: number; reason: string | null }>(
      `SELECT channel_id AS channel, count(*) AS n, max(id), outcome->>'reason' AS reason FROM inbound_requests
        WHERE state = 'unreadable' AND cause = 'inbound-not-processed' AND received_at > :since GROUP BY channel_id`,
      { since: now - DAYS * 24 * 3_600_000 },
    );
    return (_, own) =>
      own.flatMap((channel) => {
        const found = aside.find((each) => each.channel === channel.id);
        if (!found) return [];
        const requests = found.n === 1 ? 'A stored request' : `${found.n} stored requests`;
        return [
          {
            code: 'inbound-not-processed',
            severity: 'error' as const,
            problem: `${requests} could not be processed${found.reason ? `: ${found.reason}` : ''}`,
            remedy: cause('inbound-not-processed').remedy,
            subject: channelSubject(channel),
            about: 'set aside',
            affects: [channel.id],
          },
        ];
      });
  },
};
