import { suggestMerges } from '../../../../../operations/contacts';
import { hasRole } from '../../../../../operations/context';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../../_server/session';
import { keepApartAction, mergeAction } from '../actions';

export default async function DuplicatesPage() {
  const { ctx, actor, since } = await signedIn();
  const suggestions = await suggestMerges(ctx, actor);
  const agent = hasRole(actor, 'agent');
  return (
    <Page
      title="Duplicates"
      purpose="Contacts that share a number or an e-mail address. Merged, they have one thread and one history; it can be undone on the contact’s page."
    >
      <LiveRefresh since={since} topics={['contact']} />
      {suggestions.length === 0 ? (
        <Empty what="No two contacts share a number or an e-mail address." />
      ) : (
        <Table
          caption="Possible duplicates"
          rows={suggestions}
          keyOf={({ ids }) => ids.join(' ')}
          columns={[
            {
              head: 'Kept contact',
              className: 'whitespace-nowrap',
              cell: ({ contacts: [{ id, name, createdAt }] }) => (
                <>
                  <Link href={`/compose/contacts/${id}`}>{name ?? 'without a name'}</Link>{' '}
                  <span className="text-soft">
                    known <Age at={createdAt} past />
                  </span>
                </>
              ),
            },
            {
              head: 'Merged into it',
              className: 'whitespace-nowrap',
              cell: ({ contacts: [, { id, name, createdAt }] }) => (
                <>
                  <Link href={`/compose/contacts/${id}`}>{name ?? 'without a name'}</Link>{' '}
                  <span className="text-soft">
                    known <Age at={createdAt} past />
                  </span>
                </>
              ),
            },
            { head: 'Reason', className: 'w-full', cell: ({ why }) => why },
            {
              head: '',
              className: 'whitespace-nowrap',
              cell: ({ ids, why, contacts: [kept, gone] }) =>
                agent && (
                  <span className="flex gap-2">
                    <ActionButton
                      action={mergeAction.bind(null, ids[0], ids[1], why)}
                      confirm={{
                        title: `Merge ${gone.name ?? 'this contact'} into ${kept.name ?? 'the other'}?`,
                        consequence:
                          'Messages, numbers, tags and attributes move over; where both know something, what stays is kept. What either opted out of stays opted out.',
                        go: 'Merge',
                      }}
                    >
                      Merge
                    </ActionButton>
                    <ActionButton tone="quiet" action={keepApartAction.bind(null, ids[0], ids[1])}>
                      Not the same person
                    </ActionButton>
                  </span>
                ),
            },
          ]}
        />
      )}
    </Page>
  );
}
