/** Credit that does not last three days at the pace of the last seven. Nothing left at all is the connection's finding. */
import { type AccountCheck, accountSubject, finding } from '../check';

const LOW_DAYS = 3;

export const credit: AccountCheck = {
  name: 'credit',
  async prepare({ traffic }) {
    const { spent } = await traffic();
    return (account) => {
      const [balance, perWeek] = [account.balance_micros ?? 0, spent[account.id] ?? 0];
      if (balance <= 0 || perWeek <= 0) return [];
      const days = balance / (perWeek / 7);
      if (days >= LOW_DAYS) return [];
      const left = days < 1 ? 'less than a day' : days < 2 ? 'a day' : 'two days';
      return [finding('credit-low', 'attention', accountSubject(account), { who: account.name, said: left })];
    };
  },
};
