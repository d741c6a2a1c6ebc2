import { countryName, displayAddress } from '../../../../../core/addresses/display';
import { channelKind } from '../../../../../core/connect/channelKinds';
import { cause } from '../../../../../core/delivery/causes';
import { type AccountView, getAccount } from '../../../../../operations/accounts';
import { hasRole, viewExchange } from '../../../../../operations/context';
import { viewPrices } from '../../../../../operations/limits';
import { getMailbox } from '../../../../../operations/mailboxes';
import { viewMailKey } from '../../../../../operations/mailSigning';
import { countriesOursFirst } from '../../../../../operations/organisation';
import { getTrunk } from '../../../../../operations/trunks';
import { EvidenceBlock } from '../../../../../ui/domain/EvidenceBlock';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { ConnectionFindings } from '../../_parts/ConnectionFindings';
import { checkAccountAction, disableAction } from '../actions';
import { accountFacts } from './accountFacts';
import { MailboxSection } from './MailboxSection';
import { MailKeySection } from './MailKeySection';
import { MakeChannel } from './MakeChannel';
import { Prices } from './Prices';
import { Registrations } from './Registrations';
import { ReplaceCredentials } from './ReplaceCredentials';
import { TrialPhones } from './TrialPhones';
import { TrunkSection } from './TrunkSection';

export default async function AccountPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const view = await orNotFound(getAccount(ctx, actor, id));
  const [trunk, mailbox, mailKey, prices] = await Promise.all([
    getTrunk(ctx, actor, id),
    getMailbox(ctx, actor, id),
    viewMailKey(ctx, actor, id),
    viewPrices(ctx, actor, id),
  ]);
  const { account, connector } = view;
  const admin = hasRole(actor, 'administrator');
  const last = view.exchanges[0];
  return (
    <Page
      title={account.name}
      purpose={`${channelKind(connector.kind).name} at ${connector.name}${account.remoteName ? `, known there as “${account.remoteName}”` : ''}`}
      actions={admin && <AccountActions view={view} />}
    >
      <LiveRefresh since={since} topics={['account', 'channel', 'trunk']} />
      <ConnectionFindings findings={view.findings} accountId={id} admin={admin} />
      <div className="mb-6 grid items-start gap-4 lg:grid-cols-2">
        <CredentialPanel view={view} />
        <Panel className="p-4">
          <Facts
            items={[
              ...accountFacts(account),
              ...view.visibleCredentials.map((field): [string, React.ReactNode] => [
                field.label,
                <span key={field.name} className="font-mono text-[13px] break-all">
                  {field.secret ? '•••••• (kept sealed)' : field.value}
                </span>,
              ]),
            ]}
          />
        </Panel>
      </div>
      {mailbox && <MailboxSection mailbox={mailbox} connectorName={connector.name} />}
      {mailKey && <MailKeySection accountId={id} view={mailKey} admin={admin} />}
      {trunk && (
        <TrunkSection
          accountId={id}
          trunk={trunk}
          connectorName={connector.name}
          countries={await countriesOursFirst(ctx.store)}
          admin={admin}
        />
      )}
      <Section
        title="Numbers in this account"
        id="numbers"
        aside={
          connector.searchNumbers && admin ? (
            <Link href={`/connect/numbers/search?account=${id}`}>Search for more</Link>
          ) : (
            'A number becomes a channel when people are to text it or get texts from it.'
          )
        }
      >
        <NumbersTable view={view} admin={admin} />
      </Section>
      {account.facts.trial && (
        <TrialPhones
          account={{ id, facts: { verifiedPhones: account.facts.verifiedPhones } }}
          connector={connector.name}
          admin={admin}
        />
      )}
      {connector.requires.registrationCountries.length > 0 && (
        <Registrations
          accountId={id}
          countries={connector.requires.registrationCountries}
          registrations={account.facts.registrations ?? []}
          admin={admin && connector.register !== undefined}
        />
      )}
      <Prices accountId={id} list={prices} admin={admin} />
      {admin && last && (
        <Section title="Last exchange with the provider" id="exchange">
          <Panel className="p-3">
            <EvidenceBlock evidence={viewExchange(last)} />
          </Panel>
        </Section>
      )}
    </Page>
  );
}

function AccountActions({ view: { account, numbers, waiting, visibleCredentials } }: { view: AccountView }) {
  const channels = numbers.flatMap((number) => (number.channel ? [number.channel.name] : []));
  const disabled = account.disabledAt !== null;
  return (
    <>
      {disabled ? (
        <ActionButton action={disableAction.bind(null, account.id, false)}>Switch on again</ActionButton>
      ) : (
        <ActionButton
          tone="danger"
          action={disableAction.bind(null, account.id, true)}
          confirm={{
            title: `Switch ${account.name} off?`,
            consequence: `${channels.length > 0 ? `${channels.join(', ')} can no longer send` : 'No channel uses it'}. ${waiting} waiting ${waiting === 1 ? 'message stays' : 'messages stay'} in the outbox until it is on again; what comes in is still taken, except over a trunk, which unbinds.`,
            go: 'Switch it off',
          }}
        >
          Switch off
        </ActionButton>
      )}
      {visibleCredentials.length > 0 && <ReplaceCredentials accountId={account.id} fields={visibleCredentials} />}
      <ActionButton action={checkAccountAction.bind(null, account.id)} busy="Asking…">
        Check now
      </ActionButton>
    </>
  );
}

function CredentialPanel({ view: { account, connector } }: { view: AccountView }) {
  const accepted = account.state === 'accepted';
  return (
    <Panel className="p-4">
      <p className="mb-2 flex items-center gap-2 font-medium">
        <ProofMark state={accepted ? 'proven' : account.state === 'refused' ? 'broken' : 'unproven'} />
        {accepted
          ? `${connector.name} accepts the credentials`
          : account.cause
            ? cause(account.cause).title
            : 'Not checked'}
      </p>
      {!accepted && account.cause && <p className="mb-2">{cause(account.cause).remedy}</p>}
      <p className="text-[13px] text-soft">
        This proves a credential. Whether messages pass is proven on each channel.
        {account.checkedAt && (
          <>
            {' '}
            Checked <Age at={account.checkedAt} />; again by itself every 15 minutes.
          </>
        )}
      </p>
      {account.previousUntil !== null && (
        <p className="mt-2 text-[13px]">
          The former credentials still count for what comes in, until <Age at={account.previousUntil} />.
        </p>
      )}
    </Panel>
  );
}

function NumbersTable({ view: { numbers, connector }, admin }: { view: AccountView; admin: boolean }) {
  if (numbers.length === 0)
    return (
      <Panel className="px-4 py-3 text-soft">
        {connector.trunk
          ? 'No number yet. Add the numbers the carrier has assigned to this login.'
          : 'This account has no number.'}
      </Panel>
    );
  return (
    <Table
      caption="Numbers"
      rows={numbers}
      keyOf={(number) => number.id}
      columns={[
        { head: 'Number', cell: (number) => <span className="font-mono">{displayAddress(number.address)}</span> },
        { head: 'Country', cell: (number) => (number.country ? countryName(number.country) : '—') },
        { head: 'Kind', cell: (number) => number.kind.replaceAll('-', ' ') },
        { head: 'Abilities', cell: (number) => abilities(number.abilities, number.facts.shared) },
        {
          head: 'Inbound address at the provider',
          className: 'max-w-[260px] break-all',
          cell: (number) =>
            connector.inboundBelongsTo === 'account' ? (
              <span className="text-soft">
                {connector.handsOverAddress
                  ? 'the account’s'
                  : connector.trunk
                    ? 'over the bind'
                    : 'read from the mailbox'}
              </span>
            ) : number.inboundUrl ? (
              <code className="text-xs">{shorten(number.inboundUrl)}</code>
            ) : (
              <span className="text-soft">none</span>
            ),
        },
        {
          head: 'Channel',
          cell: (number) =>
            number.channel ? (
              <Link href={`/connect/channels/${number.channel.id}`}>{number.channel.name}</Link>
            ) : admin ? (
              <MakeChannel numberId={number.id} address={displayAddress(number.address)} />
            ) : (
              'none'
            ),
        },
      ]}
    />
  );
}

function abilities(list: readonly string[], shared = false): string {
  const what = (way: 'in' | 'out') =>
    [list.includes(`text-${way}`) && 'texts', list.includes(`media-${way}`) && 'files'].filter(Boolean).join(' and ');
  const words = [what('in') && `receives ${what('in')}`, what('out') && `sends ${what('out')}`]
    .filter(Boolean)
    .join(', ');
  if (!words) return 'nothing';
  if (shared) return `${words} (shared: nobody can answer it)`;
  return what('out') && !what('in') ? `${words} (one way: nobody can answer it)` : words;
}

function shorten(url: string): string {
  return url.length > 44 ? `${url.slice(0, 43)}…` : url;
}
