import { countryName, displayAddress } from '../../../../core/addresses/display';
import { PURPOSES } from '../../../../core/connect/purposes';
import { listNumbers, type NumberView, searchableAccounts } from '../../../../operations/accounts/numbers';
import { hasRole } from '../../../../operations/context/actor';
import { formatMoney } from '../../../../ui/domain/money';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
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
    <Page
      title="Numbers"
      purpose="Every number of every account, what it is for, and whether it is ready."
      actions={numbers.length > 0 && search}
    >
      <LiveRefresh since={since} topics={['account', 'channel']} />
      {numbers.length === 0 ? (
        <Empty
          what="No number yet. Numbers come with a provider account."
          next={<Link href="/connect/providers">Go to providers</Link>}
        />
      ) : (
        <Table
          caption="Numbers"
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
            { head: 'Status', cell: (row) => <Standing row={row} admin={admin} /> },
            {
              head: 'Purpose',
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
              figures: true,
              className: 'whitespace-nowrap',
              cell: ({ number }) => formatMoney(number.facts.price?.monthly, number.facts.price?.currency),
            },
            {
              head: 'Release',
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
      )}
    </Page>
  );
}

function Standing({ row: { number, account, canVerify }, admin }: { row: NumberView; admin: boolean }) {
  const { facts, abilities } = number;
  if (facts.state === 'taken') return <Mark state="broken">in use on the chat network in another way</Mark>;
  if (facts.state === 'code-needed') {
    return (
      <>
        <Mark state="unproven">to be proven by code</Mark>
        {admin && canVerify && (
          <NumberCode accountId={account.id} remoteId={number.remote_id} address={number.address} />
        )}
      </>
    );
  }
  if (facts.testMode?.on) return <Mark state="broken">test mode is on</Mark>;
  if (facts.shared) return <Mark state="not-applicable">shared: cannot be answered</Mark>;
  if (!abilities.includes('text-in') && abilities.includes('text-out'))
    return <Mark state="not-applicable">sends only</Mark>;
  if (abilities.length === 0) return <Mark state="not-applicable">carries no texts</Mark>;
  const allowance = facts.allowance ? `, ${facts.allowance} starts a day` : '';
  return <Mark state="proven">ready{allowance}</Mark>;
}

function Mark({
  state,
  children,
}: {
  state: React.ComponentProps<typeof ProofMark>['state'];
  children: React.ReactNode;
}) {
  return (
    <span className="inline-flex items-center gap-2">
      <ProofMark state={state} label="" /> {children}
    </span>
  );
}
