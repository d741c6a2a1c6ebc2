import { displayAddress } from '../../../../core/addresses/display';
import { channelKind } from '../../../../core/connect/channelKinds';
import { listChannels } from '../../../../operations/channels';
import { ProofRow } from '../../../../ui/domain/ProofRow';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { proofViews } from '../../../_server/proofViews';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';

export default async function ChannelsPage() {
  const { ctx, actor, since } = await signedIn();
  const channels = await listChannels(ctx, actor);
  return (
    <ListPage
      title="Channels"
      purpose="What people can reach you on. Four hops prove a channel: credential, outbound, receipt, inbound."
      page="/connect/channels"
      since={since}
      topics={['channel', 'account']}
      empty={{
        what: 'No number is in use yet. Open a provider account and make one of its numbers a channel.',
        next: (
          <Link href="/connect/providers" className={`plain ${buttonClass('primary')}`}>
            Go to providers
          </Link>
        ),
      }}
      rows={channels}
      keyOf={({ channel }) => channel.id}
      columns={[
        {
          head: 'Channel',
          cell: ({ channel }) => <Link href={`/connect/channels/${channel.id}`}>{channel.name}</Link>,
        },
        {
          head: 'Number',
          cell: ({ channel }) => <span className="font-mono">{displayAddress(channel.address)}</span>,
        },
        { head: 'Kind', cell: ({ channel }) => channelKind(channel.kind).name },
        {
          head: 'Account',
          cell: ({ account, channel }) =>
            channelKind(channel.kind).hosted ? (
              'the website itself'
            ) : (
              <Link href={`/connect/providers/${account.id}`}>{account.name}</Link>
            ),
        },
        {
          head: 'Credential · outbound · receipt · inbound',
          cell: ({ proofs }) => <ProofRow proofs={proofViews(proofs)} />,
        },
        {
          head: 'Hand-over',
          cell: ({ channel, handsOverAddress }) =>
            !handsOverAddress ? 'none needed' : channel.handedOverAt ? 'done' : 'open',
        },
      ]}
    />
  );
}
