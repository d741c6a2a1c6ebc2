import { cause } from '../../../../core/delivery/causes';
import type { DeliveryView } from '../../../../operations/apps';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { Link } from '../../../../ui/primitives/Link';
import { Table } from '../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { redeliverAction } from '../webhookActions';
import { Attempts } from './Attempts';

type Delivery = DeliveryView['delivery'];

export function Deliveries({ rows, admin }: { rows: DeliveryView[]; admin: boolean }) {
  if (rows.length === 0) return <p className="text-[13px] text-soft">No event has gone here yet.</p>;
  return (
    <Table
      caption="Latest deliveries"
      rows={rows}
      keyOf={({ delivery }) => delivery.id}
      columns={[
        { head: 'Event', cell: ({ delivery }) => <ClockTime at={delivery.createdAt} /> },
        {
          head: 'Type',
          cell: ({ delivery }) => <code className="text-xs">{delivery.eventType.replace(/^windgap\./, '')}</code>,
        },
        { head: 'Outcome', className: 'w-full', cell: ({ delivery }) => <Outcome row={delivery} /> },
        {
          head: 'Sent',
          cell: ({ delivery, attempts }) => (
            <Attempts body={delivery.body} attempts={attempts} count={delivery.attempts} />
          ),
        },
        {
          head: 'Message',
          cell: ({ delivery }) =>
            delivery.messageId && <Link href={`/watch/messages/${delivery.messageId}`}>Trail</Link>,
        },
        {
          head: 'Again',
          cell: ({ delivery }) =>
            admin &&
            delivery.state !== 'leased' && (
              <ActionButton action={redeliverAction.bind(null, delivery.id)}>Send again</ActionButton>
            ),
        },
      ]}
    />
  );
}

function Outcome({ row }: { row: Delivery }) {
  if (row.state === 'delivered') {
    return (
      <span className="inline-flex items-center gap-2">
        <ProofMark state="proven" label="" /> Accepted with {row.lastStatus}
      </span>
    );
  }
  if (!row.cause) return <span>Waiting for its turn</span>;
  return (
    <span>
      <span className="inline-flex items-center gap-2">
        <ProofMark state="broken" label="" /> {cause(row.cause).title}
        {row.lastStatus ? ` (${row.lastStatus})` : ''}
      </span>
      <span className="block text-soft">
        {row.state === 'given-up' ? (
          'No further attempts.'
        ) : row.state === 'aside' ? (
          <>
            Set aside: <Link href="/watch/set-aside">somebody decides</Link>.
          </>
        ) : (
          <>
            Next attempt <Age at={row.dueAt} />.
          </>
        )}{' '}
        {cause(row.cause).remedy}
      </span>
    </span>
  );
}
