import { countryName, displayAddress } from '../../../../core/addresses/display';
import { cause } from '../../../../core/delivery/causes';
import { inOneLine } from '../../../../core/delivery/media';
import { hasRole } from '../../../../operations/context';
import { type ListedMessage, listMessages, logChoices } from '../../../../operations/log';
import { listViews } from '../../../../operations/shell';
import { Cairn } from '../../../../ui/domain/Cairn';
import { formatMoney } from '../../../../ui/domain/money';
import { List, type ListColumn } from '../../../../ui/list/List';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { KeptViews } from '../../_list/KeptViews';
import { MessageFilters } from './MessageFilters';
import { filterFrom, type Search } from './query';

const COLUMNS: ListColumn<ListedMessage>[] = [
  {
    head: 'Time',
    className: 'whitespace-nowrap',
    cell: (message) => (
      <Link href={`/watch/messages/${message.id}`}>
        <ClockTime at={message.createdAt} />
      </Link>
    ),
  },
  {
    head: 'Status',
    cell: (message) => <Cairn state={message.state} />,
  },
  {
    head: 'Person',
    className: 'whitespace-nowrap',
    cell: (message) => {
      const address = displayAddress(message.direction === 'in' ? message.sender : message.recipient);
      return message.contactName ?? <span className="font-mono">{address}</span>;
    },
  },
  {
    extra: true,
    head: 'Country',
    className: 'whitespace-nowrap',
    cell: ({ country }) => (country ? countryName(country) : ''),
  },
  { head: 'Channel', className: 'whitespace-nowrap', cell: (message) => message.channelName },
  { head: 'Sent by', extra: true, className: 'whitespace-nowrap', cell: ({ originName }) => originName ?? '' },
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
    cell: (message) => formatMoney(message.priceMicros, message.priceCurrency),
  },
];
const PAGE = '/watch/messages';

export default async function MessagesPage({ searchParams }: { searchParams: Promise<Search> }) {
  const { ctx, actor, since } = await signedIn();
  const search = await searchParams;
  const [page, choices, views] = await Promise.all([
    listMessages(ctx, actor, { ...filterFrom(search, ctx.now()), limit: 50 }),
    logChoices(ctx, actor),
    listViews(ctx, actor, PAGE),
  ]);
  const query = new URLSearchParams(search as Record<string, string>);
  query.delete('before');
  const older = new URLSearchParams(query);
  older.set('before', page.next ?? '');
  return (
    <Page
      title="Messages"
      purpose="Everything that came in and went out, newest first. Each has a trail."
      actions={
        hasRole(actor, 'administrator') && (
          <span className="flex items-center gap-3 text-[13px]">
            Export:
            {(['csv', 'jsonl'] as const).map((format) => (
              <a key={format} href={`/watch/messages/export?${query}&format=${format}`} download>
                {{ csv: 'CSV', jsonl: 'JSON Lines' }[format]}
              </a>
            ))}
          </span>
        )
      }
    >
      <LiveRefresh since={since} topics={['message']} />
      <KeptViews page={PAGE} views={views} mayKeep={hasRole(actor, 'agent')} />
      <MessageFilters choices={choices} />
      {page.messages.length === 0 ? (
        <Empty what="No message fits. Take a filter off, or send a text from the bench or a conversation." />
      ) : (
        <List
          name={PAGE}
          caption="Messages"
          rows={page.messages}
          keyOf={(message) => message.id}
          columns={COLUMNS}
          paged
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
