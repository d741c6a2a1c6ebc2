import type { ReactNode } from 'react';
import { countryName } from '../../../../../core/addresses/display';
import type { AccountView } from '../../../../../operations/accounts';
import { formatMoney } from '../../../../../ui/domain/money';
import { Age } from '../../../../../ui/primitives/Time';

/** What the provider says of the account, as far as it tells. */
export function accountFacts(account: AccountView['account']): [string, ReactNode][] {
  const { facts } = account;
  const items: [string, ReactNode | undefined][] = [
    [
      'Balance',
      account.balanceMicros === null ? undefined : (
        <span key="balance" className="font-mono">
          {formatMoney(account.balanceMicros, account.balanceCurrency)}
        </span>
      ),
    ],
    ['Credential ends', facts.expiresAt === undefined ? undefined : <Age key="ends" at={facts.expiresAt} />],
    ['Permissions', facts.permissions?.join(', ')],
    ['May send to', facts.countries?.map(countryName).join(', ')],
    ['Status', facts.trial === undefined ? undefined : facts.trial ? 'on trial' : 'full account'],
    ['Mode', facts.mode],
    ['Payment', facts.payment === undefined ? undefined : facts.payment === 'ready' ? 'set up' : 'not set up'],
    ['Address verified', facts.callback === undefined ? undefined : facts.callback.verified ? 'yes' : 'no'],
    ['Events subscribed', facts.subscriptions === undefined ? undefined : facts.subscriptions.join(', ') || 'none'],
  ];
  const told = items.filter((item): item is [string, ReactNode] => item[1] !== undefined);
  return account.factsAt && told.length > 0
    ? [...told, ['Told by the provider', <Age key="at" at={account.factsAt} />]]
    : told;
}
