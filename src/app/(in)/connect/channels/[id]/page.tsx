import type { ReactNode } from 'react';
import { countryName, displayAddress } from '../../../../../core/addresses/display';
import { NAMES_BY_CARRIAGE, type NameCarriage } from '../../../../../core/addresses/senderNames';
import { channelKind } from '../../../../../core/connect/channelKinds';
import type { WebChatSettings } from '../../../../../core/connect/webChat';
import { cause } from '../../../../../core/delivery/causes';
import { identityKind } from '../../../../../core/identities/identityKinds';
import type { HopName } from '../../../../../core/proof/hops';
import {
  benchPhones,
  type ChannelPeople,
  type ChannelView,
  getChannel,
  type InboundRequestSummary,
  listChannels,
  listNameRegistrations,
  moveChoices,
  readChannelPeople,
  readMove,
  snippetFor,
} from '../../../../../operations/channels';
import { hasRole } from '../../../../../operations/context';
import { refusedThatFit } from '../../../../../operations/inbound';
import { readDestinations } from '../../../../../operations/limits';
import { countriesOursFirst } from '../../../../../operations/organisation';
import { listFallbacks, listGateways } from '../../../../../operations/outbound';
import { ProofPanel } from '../../../../../ui/domain/ProofRow';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Facts, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { proofViews } from '../../../../_server/proofViews';
import { signedIn } from '../../../../_server/session';
import { ConnectionFindings } from '../../_parts/ConnectionFindings';
import { checkAccountAction } from '../../providers/actions';
import { paceAction, reworkRefusedAction } from '../actions';
import { Destinations } from './Destinations';
import { Gateways } from './Gateways';
import { InboundSection } from './InboundSection';
import { JoinCode } from './JoinCode';
import { MoveNumber } from './MoveNumber';
import { NameRegistrations } from './NameRegistrations';
import { ProveInbound, ProveOutbound } from './ProveNow';
import { SecondWays } from './SecondWays';
import { WebChatSection } from './WebChatSection';
import { WhoCallsWhat } from './WhoCallsWhat';

export default async function ChannelPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const view = await orNotFound(getChannel(ctx, actor, id));
  const { channel, account } = view;
  const admin = hasRole(actor, 'administrator');
  const phones = admin ? await benchPhones(ctx, actor, channel.kind) : [];
  const fitting = (await refusedThatFit(ctx, id)).length;
  const allowed = await readDestinations(ctx, channel);
  const channels = await listChannels(ctx, actor);
  const nameRegistrations = await listNameRegistrations(ctx, actor, id);
  const { hosted: webChat, identity } = channelKind(channel.kind);
  const { telephone } = identityKind(identity);
  const { testMode } = view.number.facts;
  return (
    <Page
      title={channel.name}
      purpose={
        <>
          {channelKind(channel.kind).name} on <span className="font-mono">{displayAddress(channel.address)}</span>{' '}
          through {webChat ? account.name : <Link href={`/connect/providers/${account.id}`}>{account.name}</Link>}
        </>
      }
    >
      <LiveRefresh since={since} topics={['channel', 'inbound', 'account']} />
      <ConnectionFindings findings={view.findings} accountId={account.id} admin={admin} />
      <Section title="What is proven" id="proof">
        <ProofPanel
          proofs={proofViews(view.proofs).map((proof) => ({ ...proof, note: absence(proof.hop, view) }))}
          actions={admin ? proveActions(view, phones) : {}}
        />
      </Section>
      {webChat ? (
        <WebChatSection
          channelId={id}
          settings={channel.settings as WebChatSettings}
          snippet={snippetFor(ctx, channel)}
          textChannels={channels
            .filter((entry) => channelKind(entry.channel.kind).reachesAnyPhone)
            .map(({ channel: each, answered }) => [each.id, answered ? each.name : `${each.name}; cannot be answered`])}
          admin={admin}
        />
      ) : (
        <div className="grid gap-x-6 lg:grid-cols-[minmax(0,1fr)_380px]">
          <div>
            {view.handsOverAddress ? (
              <InboundSection view={view} admin={admin} />
            ) : (
              <Section title="What comes in" id="handover">
                <p>
                  {view.readsMailbox
                    ? 'Mail is read from the mailbox as soon as it is open; nothing is handed over.'
                    : 'Texts arrive over the trunk’s bind as soon as it stands; nothing is handed over.'}{' '}
                  Its state is on the page of <Link href={`/connect/providers/${account.id}`}>{account.name}</Link>.
                </p>
              </Section>
            )}
            {nameRegistrations && (
              <NameRegistrations channelId={id} name={channel.address} rows={nameRegistrations} admin={admin} />
            )}
            <MoveNumber
              channel={channel}
              view={await readMove(ctx, actor, id)}
              choices={await moveChoices(ctx, actor, id)}
              phones={phones}
              admin={admin}
            />
          </div>
          <div>
            {testMode?.on && testMode.joinCode && (
              <Section title="Test mode is on" id="test-mode">
                <JoinCode code={testMode.joinCode} number={displayAddress(channel.address)} />
              </Section>
            )}
            <Section title="Who calls what" id="drawing">
              <WhoCallsWhat kind={channel.kind} provider={account.connectorName} fetched={view.readsMailbox} />
            </Section>
            <Section
              title="Limits"
              id="limits"
              aside={
                admin && (
                  <DialogForm
                    open="Change the pace"
                    title={`Pace of ${channel.name}`}
                    description={`${account.connectorName} takes at most ${view.mostPace} messages a second.`}
                    submit="Save"
                    action={paceAction.bind(null, id)}
                  >
                    <TextField name="pace" label="Messages a second" initial={String(channel.pace)} exact />
                  </DialogForm>
                )
              }
            >
              <Facts items={limits(view)} />
            </Section>
            <SecondWays
              channelId={id}
              channelName={channel.name}
              rules={await listFallbacks(ctx, actor, id)}
              others={secondChannels(channels, id)}
              admin={admin}
            />
            <Section title="Who works with it" id="people">
              <Facts items={people(await readChannelPeople(ctx, actor, id))} />
            </Section>
            {telephone && <Destinations channelId={id} channelName={channel.name} allowed={allowed} admin={admin} />}
          </div>
        </div>
      )}
      {channel.kind === 'email-gateway' && (
        <Gateways rows={await listGateways(ctx, actor)} countries={await countriesOursFirst(ctx.store)} admin={admin} />
      )}
      <Section
        title={webChat ? 'Latest posts from visitors’ browsers' : 'Latest requests from the provider'}
        id="requests"
        aside="Everything that was posted to this channel, also what was refused."
      >
        {fitting > 0 && (
          <Panel className="mb-3 flex flex-wrap items-center justify-between gap-3 px-4 py-3">
            <p>
              {fitting === 1 ? 'One request was' : `${fitting} requests were`} refused for the signature, and{' '}
              {fitting === 1 ? 'fits' : 'fit'} the credentials saved now.{' '}
              <span className="text-soft">What the provider posted again by itself is not among them.</span>
            </p>
            {admin && (
              <ActionButton action={reworkRefusedAction.bind(null, id)}>
                {fitting === 1 ? 'Process it again' : `Process ${fitting} again`}
              </ActionButton>
            )}
          </Panel>
        )}
        {view.requests.length === 0 ? (
          <Empty what="Nothing has been posted here yet. The first real message appears here by itself." />
        ) : (
          <Requests rows={view.requests} />
        )}
      </Section>
    </Page>
  );
}

function proveActions(
  view: ChannelView,
  phones: { number: string; owner: string }[],
): Partial<Record<HopName, ReactNode>> {
  const { channel, account } = view;
  if (channelKind(channel.kind).hosted) return {};
  const outbound = (
    <ProveOutbound channelId={channel.id} channelName={channel.name} kind={channel.kind} phones={phones} />
  );
  return {
    credential: <ActionButton action={checkAccountAction.bind(null, account.id)}>Prove now</ActionButton>,
    outbound,
    inbound: <ProveInbound channelId={channel.id} address={channel.address} kind={channel.kind} phones={phones} />,
  };
}

/** Channels that can step in: those that write to people of their own accord. */
function secondChannels(channels: readonly ChannelView[], id: string): [string, string][] {
  return channels
    .filter(
      ({ channel, number }) =>
        channel.id !== id && number.abilities.includes('text-out') && !channelKind(channel.kind).hosted,
    )
    .map(({ channel }) => [channel.id, channel.name]);
}

/** Why a hop does not exist here. */
function absence(hop: HopName, { channel, number, account }: ChannelView): string | undefined {
  if (hop === 'receipt') return channelKind(channel.kind).noReceipts ?? 'No receipts come back on this way.';
  if (hop === 'inbound') {
    if (number.kind === 'sender-name') return 'One way: a sender name cannot be answered.';
    if (number.facts.shared)
      return `One way: ${account.connectorName} shares this number with others, so nobody can answer it.`;
    return 'One way: this number cannot receive texts.';
  }
  return 'This number cannot send texts.';
}

function limits(view: Awaited<ReturnType<typeof getChannel>>): [string, ReactNode][] {
  const { channel, number } = view;
  return [
    ['Abilities', number.abilities.join(', ') || 'none'],
    ['Pace', pace(view)],
    ['Waiting', `${view.waiting} ${view.waiting === 1 ? 'message' : 'messages'}`],
    ...(number.kind === 'sender-name' ? whereNamesWork() : []),
    ...(number.facts.allowance
      ? ([['Allowance', `${number.facts.allowance} business-initiated conversations a day`]] as [string, ReactNode][])
      : []),
    ...(view.replyWindowHours
      ? ([['Reply window', `${view.replyWindowHours} hours after a contact’s last message`]] as [string, ReactNode][])
      : []),
    ...(identityKind(channelKind(channel.kind).identity).telephone
      ? ([
          [
            'National numbers',
            channel.defaultCountry ? `read as ${channel.defaultCountry}` : 'refused without a country code',
          ],
        ] as [string, ReactNode][])
      : []),
  ];
}

/** Where a sender made of letters is carried, as far as it is known here. */
function whereNamesWork(): [string, ReactNode][] {
  const countries = (how: NameCarriage) => NAMES_BY_CARRIAGE[how].map((code) => countryName(code)).join(', ');
  return [
    ['Carried in', countries('carried')],
    ['Refused in', `${countries('refused')}; elsewhere it is not known here`],
  ];
}

function people({ team, receive, begin }: ChannelPeople): [string, ReactNode][] {
  return [
    ['Receive', `${names(receive)}${team ? ` (team ${team})` : ''}`],
    ['May write first', begin.length === receive.length ? 'the same' : names(begin)],
  ];
}

function names(all: readonly string[]): string {
  if (all.length === 0) return 'nobody';
  return all.length > 6 ? `${all.slice(0, 5).join(', ')} and ${all.length - 5} more` : all.join(', ');
}

function pace({ channel, paceInForce: { pace: inForce, heldBy }, mostPace }: ChannelView): string {
  if (!heldBy) return `${inForce} messages a second (at most ${mostPace})`;
  return `${inForce} messages a second, held by ${heldBy}; the channel itself is set to ${channel.pace}`;
}

function Requests({ rows }: { rows: InboundRequestSummary[] }) {
  return (
    <Table
      caption="Latest requests"
      rows={rows}
      keyOf={(row) => row.id}
      columns={[
        {
          head: 'Received',
          cell: (row) => (
            <Link href={`/watch/inbound/${row.id}`}>
              <ClockTime at={row.receivedAt} />
            </Link>
          ),
        },
        { head: 'Request', cell: (row) => <span className="font-mono">{requestLine(row)}</span> },
        { head: 'Signature', cell: (row) => row.signature.replace('not-used', '—') },
        { head: 'Answered', figures: true, cell: (row) => row.answerStatus || 'ok' },
        {
          head: 'Outcome',
          cell: (row) =>
            row.cause ? (
              <span className="text-clay">{cause(row.cause).title}</span>
            ) : row.state === 'stored' ? (
              'Stored, waiting for the engine'
            ) : row.processedAt === null ? (
              'Answered'
            ) : (
              'Processed'
            ),
        },
      ]}
    />
  );
}

function requestLine({ method, path }: InboundRequestSummary): string {
  if (path.startsWith('smpp:')) return method;
  const rest = path.split('/').slice(3);
  return `${method} …${rest.map((part) => `/${part}`).join('')}`;
}
