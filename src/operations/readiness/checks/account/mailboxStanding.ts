/** Mailboxes that cannot be read, and have not been for longer than a moment. */
import { type AccountCheck, accountSubject, finding } from '../check';

/** A server that is started anew is back by then. */
const PATIENCE = 3 * 60_000;

export const mailboxStanding: AccountCheck = {
  name: 'mailbox-standing',
  async prepare({ ctx, accounts }) {
    const states = await ctx.store.mailboxStates.allBy(
      'account_id',
      accounts.map(({ id }) => id),
    );
    return (account, own) => {
      const state = states.find(({ account_id }) => account_id === account.id);
      if (!state?.cause || account.disabled_at !== null || ctx.now() - state.since < PATIENCE) return [];
      const context = { who: account.name, said: state.said ?? undefined };
      const affects = own.map(({ id }) => id);
      return [finding('mailbox-unread', 'error', accountSubject(account), context, { since: state.since, affects })];
    };
  },
};
