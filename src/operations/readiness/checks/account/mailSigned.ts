/** Mail that should be signed and is not, and keys whose record does not stand. */
import { type AccountCheck, accountSubject, finding } from '../check';

const LOOKED_BACK = 30 * 86_400_000;

export const mailSigned: AccountCheck = {
  name: 'mail-signed',
  async prepare({ ctx, now, accounts, channels }) {
    const mailing = accounts.filter(
      ({ connector }) => ctx.connectors.has(connector) && ctx.connectors.get(connector).mailDomain,
    );
    if (mailing.length === 0) return () => [];
    const ids = new Set(mailing.map(({ id }) => id));
    const keys = await ctx.store.mailKeys.allBy('account_id', [...ids]);
    const unasked = await ctx.store.select<{ channel: string; mails: number }>(
      `SELECT channel_id AS channel, count(*) AS mails FROM messages
        WHERE channel_id IN (:channels) AND direction = 'out' AND origin_kind NOT IN ('user', 'consent')
          AND in_reply_to IS NULL AND created_at > :since GROUP BY 1`,
      {
        channels: channels.flatMap(({ id, account_id }) => (ids.has(account_id) ? [id] : [])),
        since: now - LOOKED_BACK,
      },
    );
    return (account, own) => {
      if (!ids.has(account.id) || account.disabled_at !== null) return [];
      const affects = own.map(({ id }) => id);
      const key = keys.find(({ account_id }) => account_id === account.id);
      const context = { who: account.name };
      if (key && key.state !== 'published') {
        const said = key.said ?? 'there is none';
        const severity = key.looked_at === null ? 'notice' : 'attention';
        return [
          finding(
            'mail-record-wrong',
            severity,
            accountSubject(account),
            { ...context, said },
            { since: key.since, affects },
          ),
        ];
      }
      const sent = unasked.reduce((sum, { channel, mails }) => sum + (affects.includes(channel) ? mails : 0), 0);
      if (key || sent === 0) return [];
      const said = `${sent} in the last 30 days`;
      return [finding('mail-unsigned', 'attention', accountSubject(account), { ...context, said }, { affects })];
    };
  },
};
