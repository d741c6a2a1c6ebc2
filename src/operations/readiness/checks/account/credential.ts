/** Whether the provider accepts the account's credential, as far as it was asked. */
import { cause } from '../../../../core/delivery/causes';
import { type AccountCheck, accountSubject } from '../check';

export const credential: AccountCheck = {
  name: 'credential',
  prepare: async () => (account, own) => {
    if (account.state === 'accepted' || !account.cause) return [];
    const { explain, remedy } = cause(account.cause);
    return [
      {
        code: account.cause,
        severity: account.state === 'refused' ? 'error' : 'attention',
        problem: explain({ who: account.name }),
        remedy,
        subject: accountSubject(account),
        about: 'credential',
        affects: own.map(({ id }) => id),
        action: { kind: 'check-account', id: account.id },
      },
    ];
  },
};
