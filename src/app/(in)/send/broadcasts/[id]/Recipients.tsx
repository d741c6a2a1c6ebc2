import { countryName } from '../../../../../core/addresses/display';
import type { RecipientFilter, RecipientView } from '../../../../../operations/broadcasts';
import { Link } from '../../../../../ui/primitives/Link';
import { Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { ClockTime } from '../../../../../ui/primitives/Time';

const SHOWS: [string, string][] = [
  ['', 'all'],
  ['going', 'who get it'],
  ['left-out', 'left out'],
  ['waiting', 'waiting'],
  ['sent', 'sent'],
  ['delivered', 'delivered'],
  ['failed', 'failed'],
  ['uncertain', 'not known'],
  ['replied', 'replied'],
  ['opted-out', 'opted out after it'],
];

const STATES: Record<RecipientView['state'], string> = {
  'left-out': 'left out',
  planned: 'not yet',
  queued: 'waiting',
  sending: 'being sent',
  uncertain: 'not known',
  sent: 'sent',
  delivered: 'delivered',
  read: 'read',
  failed: 'failed',
};

interface Props {
  id: string;
  filter: RecipientFilter;
  recipients: readonly RecipientView[];
  next?: number;
  channelNames: ReadonlyMap<string, string>;
  /** What there is to choose from. */
  countries: readonly string[];
  channels: readonly string[];
  answers: readonly string[];
  mayExport: boolean;
}

/** Every recipient with what became of them, a page at a time. */
export function Recipients({ id, filter, recipients, next, channelNames, mayExport, ...choices }: Props) {
  const { countries, channels, answers } = choices;
  const query = (more: Record<string, string | undefined>) => {
    const given = Object.entries({ ...filter, ...more }).filter((entry): entry is [string, string] => !!entry[1]);
    return given.length > 0 ? `?${new URLSearchParams(given)}` : '';
  };
  const page = `/send/broadcasts/${id}`;
  return (
    <Section
      title="Recipients"
      id="recipients"
      aside={
        mayExport && (
          <>
            <a className="text-ridge underline" href={`${page}/export${query({ format: 'csv' })}`} download>
              CSV
            </a>{' '}
            <a className="text-ridge underline" href={`${page}/export${query({ format: 'jsonl' })}`} download>
              JSON Lines
            </a>
          </>
        )
      }
    >
      <form key={query({})} method="get" action={page} className="mb-2 flex flex-wrap items-center gap-2 text-[13px]">
        <Choice label="Show" name="show" chosen={filter.show} options={SHOWS} />
        {countries.length > 1 && (
          <Choice
            label="Country"
            name="country"
            chosen={filter.country}
            options={[['', 'all'], ...countries.map((code): [string, string] => [code, countryName(code)])]}
          />
        )}
        {channels.length > 1 && (
          <Choice
            label="Over"
            name="channel"
            chosen={filter.channel}
            options={[['', 'all'], ...channels.map((each): [string, string] => [each, channelNames.get(each) ?? each])]}
          />
        )}
        {answers.length > 0 && (
          <Choice
            label="Pressed"
            name="pressed"
            chosen={filter.pressed}
            options={[['', 'whatever'], ...answers.map((answer): [string, string] => [answer, answer])]}
          />
        )}
        <label>
          Name or address{' '}
          <input
            name="find"
            defaultValue={filter.find ?? ''}
            className="rounded border border-line-strong bg-panel px-2 py-1"
          />
        </label>
        {filter.reason && <input type="hidden" name="reason" value={filter.reason} />}
        <button type="submit" className="rounded border border-line-strong bg-panel px-3 py-1 font-medium">
          Find
        </button>
        {query({}) && <Link href={`${page}#recipients`}>All of them</Link>}
      </form>
      {recipients.length === 0 ? (
        <p className="text-soft">Nobody is among them.</p>
      ) : (
        <Table
          caption="Recipients"
          rows={recipients}
          keyOf={({ seq }) => String(seq)}
          columns={[
            {
              head: 'Who',
              className: 'whitespace-nowrap',
              cell: ({ name, value, contactId }) => (
                <>
                  {contactId ? (
                    <Link href={`/compose/contacts/${contactId}`}>{name ?? value ?? 'a contact'}</Link>
                  ) : (
                    (name ?? value ?? 'nobody')
                  )}
                  {name && value && <span className="block font-mono text-xs text-soft">{value}</span>}
                </>
              ),
            },
            {
              head: 'State',
              className: 'whitespace-nowrap',
              cell: ({ state, messageId }) =>
                messageId ? <Link href={`/watch/messages/${messageId}`}>{STATES[state]}</Link> : STATES[state],
            },
            {
              head: 'Why',
              className: 'w-full',
              cell: ({ reason }) =>
                reason && (
                  <>
                    {reason.title}
                    {reason.said && <span className="text-soft">: {reason.said}</span>}
                  </>
                ),
            },
            {
              head: 'Over',
              className: 'whitespace-nowrap',
              cell: ({ channelId }) => (channelId ? channelNames.get(channelId) : ''),
            },
            { head: 'Country', className: 'whitespace-nowrap', cell: ({ country }) => country && countryName(country) },
            {
              head: 'Due',
              className: 'whitespace-nowrap',
              cell: ({ dueAt }) => dueAt !== undefined && <ClockTime at={dueAt} />,
            },
            {
              head: 'Answer',
              className: 'whitespace-nowrap',
              cell: ({ pressed, repliedAt, optedOut, contactId }) =>
                optedOut
                  ? 'opted out'
                  : (pressed ??
                    (repliedAt && contactId ? <Link href={`/compose/contacts/${contactId}`}>replied</Link> : '')),
            },
          ]}
        />
      )}
      {next !== undefined && (
        <p className="mt-2">
          <Link href={`${page}${query({ after: String(next) })}#recipients`}>The next ones</Link>
        </p>
      )}
    </Section>
  );
}

function Choice({
  label,
  name,
  chosen,
  options,
}: {
  label: string;
  name: string;
  chosen?: string;
  options: readonly [value: string, words: string][];
}) {
  return (
    <label>
      {label}{' '}
      <select name={name} defaultValue={chosen ?? ''} className="rounded border border-line-strong bg-panel px-2 py-1">
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
