/** What the provider's own words about the account, its numbers and its trunks endanger. */
import type { Examined } from '../../../../core/readiness/readiness';
import { findingsOf } from '../../../accounts';
import { type AccountCheck, accountSubject, channelSubject } from '../check';

export const connection: AccountCheck = {
  name: 'connection',
  async prepare({ ctx, accounts }) {
    const findings = await findingsOf(ctx, accounts);
    return (account, own) =>
      findings.flatMap(({ hop, action, subject: id, about, ...finding }): Examined[] => {
        const channel = own.find((each) => each.id === id);
        if (!channel && id !== account.id) return [];
        return [
          {
            ...finding,
            subject: channel ? channelSubject(channel) : accountSubject(account),
            about: [hop, about].filter(Boolean).join(' '),
            affects: channel ? [channel.id] : own.map((each) => each.id),
            ...(action ? { action: { kind: action, id } } : {}),
          },
        ];
      });
  },
};
