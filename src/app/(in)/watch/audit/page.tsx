import { auditChoices, listAudit } from '../../../../operations/audit';
import { hasRole } from '../../../../operations/context';
import { List } from '../../../../ui/list/List';
import { Button, buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';
import { orNotFound } from '../../../_server/orNotFound';
import { signedIn } from '../../../_server/session';
import { filterFrom, type Search } from './query';

const PAGE = '/watch/audit';

const SPANS: [string, string][] = [
  ['hour', 'the last hour'],
  ['day', 'the last day'],
  ['week', 'the last week'],
];

/** Areas of the record as people call them; others stand as they are. */
const AREAS: Record<string, string> = {
  'sign-in': 'refused sign-ins',
  session: 'sessions',
  person: 'people',
  access: 'refused access',
  key: 'API keys',
  account: 'provider accounts',
  'identity-provider': 'identity provider',
  'second-factor': 'second factor',
};

export default async function AuditPage({ searchParams }: { searchParams: Promise<Search> }) {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) return <Empty what="Administrators and owners see who did what." />;
  const search = await searchParams;
  const [{ entries, next }, choices] = await orNotFound(
    Promise.all([listAudit(ctx, actor, filterFrom(search, ctx.now())), auditChoices(ctx, actor)]),
  );
  const query = new URLSearchParams(search as Record<string, string>);
  query.delete('before');
  const older = new URLSearchParams(query);
  older.set('before', next ?? '');
  return (
    <Page
      title="Audit"
      purpose="Who did what, and what was refused. Each entry is chained to the one before; npm run audit checks the chain. Secrets are never written here."
      actions={
        <span className="flex items-center gap-3 text-[13px]">
          Export:
          {(['csv', 'jsonl'] as const).map((format) => (
            <a key={format} href={`${PAGE}/export?${query}&format=${format}`} download>
              {{ csv: 'CSV', jsonl: 'JSON Lines' }[format]}
            </a>
          ))}
        </span>
      }
    >
      <form method="get" action={PAGE} className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
        <Choice name="who" label="Who" all="everybody" value={search.who} options={choices.people} />
        <Choice
          name="area"
          label="About"
          all="everything"
          value={search.area}
          options={choices.areas.map((area) => [area, AREAS[area] ?? area.replaceAll('-', ' ')])}
        />
        <Choice name="since" label="Since" all="the beginning" value={search.since} options={SPANS} />
        <label className="grid gap-1 text-[13px]">
          Words
          <input
            name="q"
            defaultValue={search.q ?? ''}
            className="rounded border border-line-strong bg-panel px-2 py-1"
          />
        </label>
        <Button type="submit">Show</Button>
      </form>
      {entries.length === 0 ? (
        <Empty what="Nothing fits. Take a filter off." />
      ) : (
        <List
          name={PAGE}
          caption="Audit log"
          rows={entries}
          keyOf={(entry) => entry.id}
          paged
          columns={[
            {
              head: 'Time',
              className: 'whitespace-nowrap',
              value: (entry) => entry.at,
              cell: (entry) => <ClockTime at={entry.at} />,
            },
            { head: 'Who', cell: (entry) => entry.actorName },
            { head: 'What', className: 'w-full', cell: (entry) => entry.summary },
            { head: 'Action', cell: (entry) => <code className="text-xs">{entry.action}</code> },
            { head: 'Entry', extra: true, figures: true, cell: (entry) => entry.place ?? '' },
          ]}
        />
      )}
      {next && (
        <p className="mt-3">
          <Link href={`?${older}`} className={`plain ${buttonClass()}`}>
            Older
          </Link>
        </p>
      )}
    </Page>
  );
}

function Choice({
  name,
  label,
  all,
  value,
  options,
}: {
  name: string;
  label: string;
  all: string;
  value: string | undefined;
  options: readonly (readonly [string, string])[];
}) {
  return (
    <label className="grid gap-1 text-[13px]">
      {label}
      <select name={name} defaultValue={value ?? ''} className="rounded border border-line-strong bg-panel px-2 py-1">
        <option value="">{all}</option>
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
