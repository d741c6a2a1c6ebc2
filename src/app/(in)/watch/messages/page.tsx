import { countryName, displayAddress } from '../../../../core/addresses/display';
import { cause } from '../../../../core/delivery/causes';
import { inOneLine } from '../../../../core/delivery/media';
import { hasRole } from '../../../../operations/context/actor';
import { logChoices } from '../../../../operations/messages/logChoices';
import { logViews } from '../../../../operations/messages/logViews';
import { type ListedMessage, listMessages } from '../../../../operations/messages/messageLog';
import { Cairn } from '../../../../ui/domain/Cairn';
import { formatMoney } from '../../../../ui/domain/money';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { type Column, Table } from '../../../../ui/primitives/Table';
import { ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { keepViewAction, removeViewAction } from './actions';
import { MessageFilters } from './MessageFilters';
import { filterFrom, type Search } from './query';

const COLUMNS: (Column<ListedMessage> & { id: string })[] = [
  {
    id: 'progress',
    head: 'Status',
    cell: (message) => <Cairn state={message.state} />,
  },
  {
    id: 'person',
    head: 'Person',
    className: 'whitespace-nowrap',
    cell: (message) => {
      const address = displayAddress(message.direction === 'in' ? message.sender : message.recipient);
      return message.contact_name ?? <span className="font-mono">{address}</span>;
    },
  },
  {
    id: 'country',
    head: 'Country',
    className: 'whitespace-nowrap',
    cell: ({ country }) => (country ? countryName(country) : ''),
  },
  { id: 'channel', head: 'Channel', className: 'whitespace-nowrap', cell: (message) => message.channel_name },
  { id: 'origin', head: 'Sent by', className: 'whitespace-nowrap', cell: ({ origin_name }) => origin_name ?? '' },
  {
    id: 'text',
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
  { id: 'parts', head: 'Parts', figures: true, cell: (message) => message.parts },
  {
    id: 'price',
    head: 'Price',
    figures: true,
    className: 'whitespace-nowrap',
    cell: (message) => formatMoney(message.price_micros, message.price_currency),
  },
];
const USUAL = 'progress,person,channel,text,parts,price';

export default async function MessagesPage({ searchParams }: { searchParams: Promise<Search> }) {
  const { ctx, actor, since } = await signedIn();
  const search = await searchParams;
  const [page, choices, views] = await Promise.all([
    listMessages(ctx, actor, { ...filterFrom(search, ctx.now()), limit: 50 }),
    logChoices(ctx, actor),
    logViews(ctx, actor),
  ]);
  const query = new URLSearchParams(search as Record<string, string>);
  query.delete('before');
  const older = new URLSearchParams(query);
  older.set('before', page.next ?? '');
  const shown = (search.cols ?? USUAL).split(',');
  const kept = views.find((view) => view.query === query.toString());
  return (
    <Page
      title="Messages"
      purpose="Everything that came in and went out, newest first. Each has a trail."
      actions={
        <>
          {query.size > 0 && !kept && hasRole(actor, 'agent') && (
            <DialogForm
              open="Keep this view"
              title="Keep this view"
              submit="Keep"
              action={keepViewAction.bind(null, query.toString())}
            >
              <TextField
                name="name"
                label="Name"
                help="Everybody finds it above the log. One of the same name is replaced."
              />
            </DialogForm>
          )}
          {hasRole(actor, 'administrator') && (
            <span className="flex items-center gap-3 text-[13px]">
              Export:
              {(['csv', 'jsonl'] as const).map((format) => (
                <a key={format} href={`/watch/messages/export?${query}&format=${format}`} download>
                  {{ csv: 'CSV', jsonl: 'JSON Lines' }[format]}
                </a>
              ))}
            </span>
          )}
        </>
      }
    >
      <LiveRefresh since={since} topics={['message']} />
      {views.length > 0 && (
        <nav aria-label="Kept views" className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
          {views.map((view) => (
            <Link
              key={view.id}
              href={`/watch/messages?${view.query}`}
              aria-current={view === kept ? 'true' : undefined}
              className={view === kept ? 'plain font-semibold text-heather' : undefined}
            >
              {view.name}
            </Link>
          ))}
          {kept && hasRole(actor, 'agent') && (
            <ActionButton tone="quiet" action={removeViewAction.bind(null, kept.id)}>
              Forget “{kept.name}”
            </ActionButton>
          )}
        </nav>
      )}
      <MessageFilters choices={choices} columns={COLUMNS.map(({ id, head }) => [id, String(head)])} usual={USUAL} />
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
            ...COLUMNS.filter(({ id }) => shown.includes(id)),
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
