import { channelKind } from '../../../../core/connect/channelKinds';
import { cause } from '../../../../core/delivery/causes';
import { type AccountView, listAccounts } from '../../../../operations/accounts';
import { formatMoney } from '../../../../ui/domain/money';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';

export default async function ProvidersPage() {
  const { ctx, actor, since } = await signedIn();
  // A website with the chat is no provider; it is found among the channels.
  const accounts = (await listAccounts(ctx, actor)).filter(({ connector }) => !channelKind(connector.kind).hosted);
  const connect = (
    <Link href="/connect/providers/new" className={`plain ${buttonClass('primary')}`}>
      Connect a provider
    </Link>
  );
  return (
    <ListPage
      title="Providers"
      purpose="Accounts at the services that carry messages to and from handsets."
      actions={accounts.length > 0 && connect}
      page="/connect/providers"
      since={since}
      topics={['account', 'channel']}
      empty={{
        what: 'No provider account is connected. You need its credentials; the next page says which, and where the provider shows them.',
        next: connect,
      }}
      caption="Provider accounts"
      rows={accounts}
      keyOf={({ account }) => account.id}
      columns={[
        {
          head: 'Connection',
          cell: ({ account }) => <Link href={`/connect/providers/${account.id}`}>{account.name}</Link>,
        },
        { head: 'Provider', cell: (row) => row.connector.name },
        { head: 'Credential', value: ({ account }) => account.state, cell: (row) => <CredentialState view={row} /> },
        {
          head: 'Checked',
          value: ({ account }) => account.checkedAt,
          cell: ({ account }) => (account.checkedAt ? <Age at={account.checkedAt} /> : 'never'),
        },
        {
          head: 'Balance',
          value: ({ account }) => account.balanceMicros,
          figures: true,
          cell: ({ account }) => formatMoney(account.balanceMicros, account.balanceCurrency),
        },
        { head: 'Findings', value: ({ findings }) => findings.length, cell: (row) => <FindingCount view={row} /> },
        { head: 'Numbers', figures: true, value: (row) => row.numbers.length, cell: (row) => row.numbers.length },
        { head: 'Channels', figures: true, cell: (row) => row.numbers.filter((number) => number.channel).length },
      ]}
    />
  );
}

function CredentialState({ view: { account } }: { view: AccountView }) {
  const state = account.state === 'accepted' ? 'proven' : account.state === 'refused' ? 'broken' : 'unproven';
  const words = account.state === 'accepted' ? 'Accepted' : account.cause ? cause(account.cause).title : account.state;
  return (
    <span className="inline-flex items-center gap-2">
      <ProofMark state={state} label="" /> {words}
    </span>
  );
}

function FindingCount({ view: { findings } }: { view: AccountView }) {
  const errors = findings.filter((finding) => finding.severity === 'error').length;
  const others = findings.filter((finding) => finding.severity === 'attention').length;
  if (errors + others === 0) return <span className="text-soft">none</span>;
  return (
    <span>
      {errors > 0 && (
        <span className="text-clay">
          ■ {errors} {errors === 1 ? 'error' : 'errors'}
        </span>
      )}
      {errors > 0 && others > 0 && ', '}
      {others > 0 && <span className="text-ochre-ink">▲ {others} to attend to</span>}
    </span>
  );
}
