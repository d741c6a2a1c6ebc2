import { displayAddress } from '../../../../core/addresses/display';
import { cause } from '../../../../core/delivery/causes';
import { inOneLine } from '../../../../core/delivery/media';
import { listChannels } from '../../../../operations/channels';
import { listMessages } from '../../../../operations/messages';
import { Cairn } from '../../../../ui/domain/Cairn';
import { formatMoney } from '../../../../ui/domain/money';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { MessageFilters } from './MessageFilters';

export const metadata = { title: 'Messages' };

type Search = Partial<Record<'direction' | 'state' | 'channel' | 'q' | 'before', string>>;

export default async function MessagesPage({ searchParams }: { searchParams: Promise<Search> }) {
  const { w, actor, since } = await signedIn();
  const search = await searchParams;
  const direction = search.direction === 'in' || search.direction === 'out' ? search.direction : undefined;
  const [page, channels] = await Promise.all([
    listMessages(w, actor, {
      direction,
      state: search.state,
      channel: search.channel,
      search: search.q,
      before: search.before,
      limit: 50,
    }),
    listChannels(w, actor),
  ]);
  const older = new URLSearchParams({ ...search, before: page.next ?? '' });
  return (
    <Page title="Messages" purpose="Everything that came in and went out, newest first. Each has a trail.">
      <LiveRefresh since={since} topics={['message']} />
      <MessageFilters channels={channels.map(({ channel }) => [channel.id, channel.name])} />
      {page.messages.length === 0 ? (
        <Empty what="No message fits. Take a filter off, or send a text from the bench or a conversation." />
      ) : (
        <Table
          caption="Messages"
          rows={page.messages}
          keyOf={(message) => message.id}
          columns={[
            {
              head: 'Time',
              className: 'whitespace-nowrap',
              cell: (message) => (
                <Link href={`/watch/messages/${message.id}`}>
                  <ClockTime at={message.created_at} />
                </Link>
              ),
            },
            { head: 'Progress', cell: (message) => <Cairn state={message.state} /> },
            {
              head: 'Person',
              className: 'whitespace-nowrap',
              cell: (message) => {
                const address = displayAddress(message.direction === 'in' ? message.sender : message.recipient);
                return message.contact_name ?? <span className="font-mono">{address}</span>;
              },
            },
            { head: 'Channel', className: 'whitespace-nowrap', cell: (message) => message.channel_name },
            {
              head: 'Text',
              className: 'w-full',
              cell: (message) => (
                <>
                  <span className="line-clamp-2 break-words">{inOneLine(message)}</span>
                  {message.cause && message.state !== 'delivered' && (
                    <span className="text-clay">{cause(message.cause).title}</span>
                  )}
                </>
              ),
            },
            { head: 'Parts', figures: true, cell: (message) => message.parts },
            {
              head: 'Price',
              figures: true,
              className: 'whitespace-nowrap',
              cell: (message) => formatMoney(message.price_micros, message.price_currency),
            },
          ]}
        />
      )}
      {page.next && (
        <p className="mt-3">
          <Link href={`?${older}`} className={`plain ${buttonClass()}`}>
            Older
          </Link>
        </p>
      )}
    </Page>
  );
}
