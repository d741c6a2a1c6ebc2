import type { QueueView } from '../../../../operations/setAside';
import { Table } from '../../../../ui/primitives/Table';
import { Age } from '../../../../ui/primitives/Time';

/** How every queue of the engine stands: what waits, since when, and what was set aside of it. */
export function Queues({ queues }: { queues: readonly QueueView[] }) {
  return (
    <Table
      caption="Queues"
      rows={queues}
      keyOf={({ name }) => name}
      columns={[
        { head: 'Queue', className: 'w-full', cell: ({ label }) => label },
        { head: 'Waiting', figures: true, cell: ({ waiting }) => waiting },
        {
          head: 'Oldest',
          className: 'whitespace-nowrap',
          cell: ({ since }) =>
            since === undefined ? <span className="text-soft">none</span> : <Age at={since} past />,
        },
        { head: 'Set aside', figures: true, cell: ({ aside }) => aside },
      ]}
    />
  );
}
