import { countryChoices, countryName, displayAddress } from '../../../../core/addresses/display';
import { EVERYBODY } from '../../../../core/contacts/audience';
import { browseContacts, countAudience, listAudiences } from '../../../../operations/contacts';
import { hasRole } from '../../../../operations/context';
import { ConsentMarks } from '../../../../ui/compose/ConsentMarks';
import { SelectField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import type { BulkAction } from '../../../../ui/list/Bulk';
import { List } from '../../../../ui/list/List';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { AudienceBuilder } from './AudienceBuilder';
import { addContactAction, addTagAction, removeTagAction } from './actions';
import { readListQuery } from './query';

const PAGE = 50;
const BULK: BulkAction[] = [
  { label: 'Add a tag', ask: { name: 'tag', label: 'Tag' }, action: addTagAction },
  { label: 'Remove a tag', ask: { name: 'tag', label: 'Tag' }, action: removeTagAction },
];

export default async function ContactsPage({
  searchParams,
}: {
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const { ctx, actor, since } = await signedIn();
  const given = await searchParams;
  const { search, audience } = await readListQuery(ctx, actor, given);
  const [{ lines, next }, audiences, count] = await Promise.all([
    browseContacts(ctx, actor, { search, audience: audience?.conditions, before: given.before, limit: PAGE }),
    listAudiences(ctx, actor),
    search ? undefined : countAudience(ctx, actor, audience?.conditions ?? EVERYBODY),
  ]);
  const agent = hasRole(actor, 'agent');
  const admin = hasRole(actor, 'administrator');
  const address = (changed: Record<string, string>) =>
    `?${new URLSearchParams({ ...(given as Record<string, string>), ...changed })}`;
  return (
    <Page
      title="Contacts"
      purpose="People who wrote, were written to, or came in a file: how they are reached, what is known of them, and which messages they opted in to."
      actions={
        <>
          <Link href="/compose/contacts/duplicates" className={`plain ${buttonClass()}`}>
            Duplicates
          </Link>
          {admin && (
            <Link href="/compose/contacts/imports" className={`plain ${buttonClass()}`}>
              Import
            </Link>
          )}
          {agent && (
            <DialogForm
              open="Add a contact"
              tone="primary"
              title="Add a contact"
              submit="Add"
              action={addContactAction}
            >
              <TextField name="name" label="Name" />
              <TextField name="address" label="Phone or e-mail" exact />
              <SelectField
                name="country"
                label="A number without a country code is of"
                options={[['', 'no country: refuse it'], ...countryChoices()]}
              />
            </DialogForm>
          )}
        </>
      }
    >
      <LiveRefresh since={since} topics={['contact', 'import']} />
      <AudienceBuilder
        key={JSON.stringify(audience ?? null)}
        present={audience}
        audiences={audiences.map(({ id, name }) => [id, name])}
        search={search}
        mayKeep={agent}
      />
      {lines.length === 0 ? (
        <Empty
          what={
            search || audience
              ? 'No contact matches.'
              : 'Nobody has written yet. Contacts come by themselves with the first message, or out of a file.'
          }
        />
      ) : (
        <>
          <List
            name="/compose/contacts"
            caption="Contacts"
            paged
            aside={
              <>
                <span data-count={count}>
                  {count === undefined
                    ? `Those who fit “${search}”`
                    : `${count.toLocaleString('en')} ${count === 1 ? 'contact' : 'contacts'}`}
                  , newest first
                </span>
                {admin && (
                  <span className="flex gap-3">
                    Export:
                    {(['csv', 'vcf', 'jsonl'] as const).map((format) => (
                      <a key={format} href={`/compose/contacts/export${address({ format })}`} download>
                        {{ csv: 'CSV', vcf: 'vCard', jsonl: 'JSON Lines' }[format]}
                      </a>
                    ))}
                  </span>
                )}
              </>
            }
            bulk={agent ? BULK : undefined}
            rows={lines}
            keyOf={({ id }) => id}
            columns={[
              {
                head: 'Name',
                className: 'whitespace-nowrap',
                cell: ({ id, name, addresses }) => (
                  <Link href={`/compose/contacts/${id}`}>{name ?? displayAddress(addresses[0] ?? 'A visitor')}</Link>
                ),
              },
              {
                head: 'Phone',
                className: 'whitespace-nowrap font-mono text-xs',
                cell: ({ addresses }) => addresses.map(displayAddress).join(', '),
              },
              {
                head: 'Country',
                className: 'whitespace-nowrap',
                cell: ({ country }) => (country ? countryName(country) : ''),
              },
              { head: 'Language', className: 'font-mono text-xs', cell: ({ language }) => language ?? '' },
              {
                head: 'Consent',
                className: 'whitespace-nowrap',
                cell: ({ consents }) => <ConsentMarks consents={consents} />,
              },
              { head: 'Tags', className: 'w-full', cell: ({ tags }) => tags.join(', ') },
              {
                head: 'Last wrote',
                className: 'whitespace-nowrap',
                cell: ({ seenAt }) => (seenAt === null ? '' : <Age at={seenAt} past />),
              },
            ]}
          />
          {next && (
            <p className="mt-3">
              <Link href={address({ before: next })}>Older</Link>
            </p>
          )}
        </>
      )}
    </Page>
  );
}
