/** Trunks that are bound and take nothing. */
import { type AccountCheck, accountSubject, finding } from '../check';

export const trunkStanding: AccountCheck = {
  name: 'trunk-standing',
  async prepare({ ctx, accounts }) {
    const states = await ctx.store.trunkStates.allBy(
      'account_id',
      accounts.map(({ id }) => id),
    );
    return (account, own) => {
      const state = states.find(({ account_id }) => account_id === account.id);
      if (state?.cause !== 'trunk-half-dead' || account.disabled_at !== null) return [];
      const context = { who: account.name, said: state.said ?? undefined };
      const affects = own.map(({ id }) => id);
      return [finding('trunk-half-dead', 'error', accountSubject(account), context, { since: state.since, affects })];
    };
  },
};
