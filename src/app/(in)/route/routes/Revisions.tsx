import type { RoutesView } from '../../../../operations/routes';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { returnAction } from './actions';

/** What decided before, and the way back to it. */
export function Revisions({
  revisions,
  live,
  admin,
}: {
  revisions: RoutesView['revisions'];
  live: number;
  admin: boolean;
}) {
  if (revisions.length === 0) return null;
  return (
    <Section title="Revisions" id="revisions">
      <Table
        caption="Revisions of the routes"
        rows={revisions.slice(0, 12)}
        keyOf={({ number }) => String(number)}
        columns={[
          { head: 'Number', className: 'whitespace-nowrap font-mono text-xs', cell: ({ number }) => String(number) },
          {
            head: 'Published',
            className: 'whitespace-nowrap',
            cell: ({ publishedAt }) => (
              <>
                <ClockTime at={publishedAt} />{' '}
                <span className="text-soft">
                  <Age at={publishedAt} past />
                </span>
              </>
            ),
          },
          { head: 'By', className: 'whitespace-nowrap', cell: ({ by }) => by },
          { head: 'Note', className: 'w-full', cell: ({ note }) => note },
          {
            head: '',
            className: 'whitespace-nowrap text-right',
            cell: ({ number }) =>
              number === live ? (
                <span className="text-moss">■ decides now</span>
              ) : (
                admin && (
                  <ActionButton
                    action={returnAction.bind(null, number)}
                    confirm={{
                      title: `Return to revision ${number}?`,
                      consequence: `Every message from now on is decided by the routes as they were in revision ${number}. What waits in a conversation goes on as it began.`,
                      go: 'Return to it',
                    }}
                  >
                    Return to it
                  </ActionButton>
                )
              ),
          },
        ]}
      />
    </Section>
  );
}
