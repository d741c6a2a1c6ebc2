import { countryName, displayAddress } from '../../../../core/addresses/display';
import { PURPOSES } from '../../../../core/connect/purposes';
import { listNumbers, type NumberView, searchableAccounts } from '../../../../operations/accounts';
import { hasRole } from '../../../../operations/context';
import { formatMoney } from '../../../../ui/domain/money';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { releaseAction } from './actions';
import { NumberCode } from './NumberCode';
import { PurposeChoice } from './PurposeChoice';

export default async function NumbersPage() {
  const { ctx, actor, since } = await signedIn();
  const [numbers, searchable] = await Promise.all([listNumbers(ctx, actor), searchableAccounts(ctx, actor)]);
  const admin = hasRole(actor, 'administrator');
  const search = admin && searchable.length > 0 && (
    <Link href="/connect/numbers/search" className={`plain ${buttonClass('primary')}`}>
      Search for a number
    </Link>
  );
  return (
    <ListPage
      title="Numbers"
      purpose="Every number of every account, what it is for, and whether it is ready."
      actions={numbers.length > 0 && search}
      page="/connect/numbers"
      since={since}
      topics={['account', 'channel']}
      empty={{
        what: 'No number yet. Numbers come with a provider account.',
        next: <Link href="/connect/providers">Go to providers</Link>,
      }}
      rows={numbers}
      keyOf={({ number }) => number.id}
      columns={[
        {
          head: 'Number',
          className: 'whitespace-nowrap',
          cell: ({ number }) => <span className="font-mono">{displayAddress(number.address)}</span>,
        },
        { head: 'Country', cell: ({ number }) => (number.country ? countryName(number.country) : '—') },
        {
          head: 'Account',
          cell: ({ account }) => <Link href={`/connect/providers/${account.id}`}>{account.name}</Link>,
        },
        {
          head: 'Channel',
          cell: ({ channel }) =>
            channel ? (
              <Link href={`/connect/channels/${channel.id}`}>{channel.name}</Link>
            ) : (
              <span className="text-soft">none</span>
            ),
        },
        { head: 'Status', value: (row) => standingOf(row).words, cell: (row) => <Status row={row} admin={admin} /> },
        {
          head: 'Purpose',
          value: ({ number }) => (number.purpose ? PURPOSES[number.purpose] : undefined),
          cell: ({ number }) =>
            admin ? (
              <PurposeChoice id={number.id} address={displayAddress(number.address)} purpose={number.purpose} />
            ) : number.purpose ? (
              PURPOSES[number.purpose]
            ) : (
              '—'
            ),
        },
        {
          head: 'Monthly price',
          value: ({ number }) => number.facts.price?.monthly,
          figures: true,
          className: 'whitespace-nowrap',
          cell: ({ number }) => formatMoney(number.facts.price?.monthly, number.facts.price?.currency),
        },
        {
          head: '',
          cell: (row) =>
            admin &&
            row.canRelease &&
            !row.channel && (
              <ActionButton
                tone="danger"
                action={releaseAction.bind(null, row.number.id)}
                confirm={{
                  title: `Release ${displayAddress(row.number.address)}?`,
                  consequence: `${row.account.connectorName} may hand it to somebody else at once; texts to it then reach them.`,
                  go: 'Release it',
                }}
              >
                Release
              </ActionButton>
            ),
        },
      ]}
    />
  );
}

type Standing = { state: React.ComponentProps<typeof ProofMark>['state']; words: string };

/** What can be said of a number in few words, and how it is marked. */
function standingOf({ number: { facts, abilities } }: NumberView): Standing {
  if (facts.state === 'taken') return { state: 'broken', words: 'in use on the chat network in another way' };
  if (facts.state === 'code-needed') return { state: 'unproven', words: 'to be proven by code' };
  if (facts.testMode?.on) return { state: 'broken', words: 'test mode is on' };
  if (facts.shared) return { state: 'not-applicable', words: 'shared: cannot be answered' };
  if (!abilities.includes('text-in') && abilities.includes('text-out'))
    return { state: 'not-applicable', words: 'sends only' };
  if (abilities.length === 0) return { state: 'not-applicable', words: 'carries no texts' };
  return { state: 'proven', words: `ready${facts.allowance ? `, ${facts.allowance} starts a day` : ''}` };
}

function Status({ row, admin }: { row: NumberView; admin: boolean }) {
  const { number, account, canVerify } = row;
  const { state, words } = standingOf(row);
  return (
    <>
      <span className="inline-flex items-center gap-2">
        <ProofMark state={state} label="" /> {words}
      </span>
      {number.facts.state === 'code-needed' && admin && canVerify && (
        <NumberCode accountId={account.id} remoteId={number.remoteId} address={number.address} />
      )}
    </>
  );
}
