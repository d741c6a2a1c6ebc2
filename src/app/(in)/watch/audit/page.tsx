import { hasRole, listAudit } from '../../../../operations/context';
import { List } from '../../../../ui/list/List';
import { Empty, Page } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';

export default async function AuditPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) return <Empty what="Administrators and owners see who changed what." />;
  const entries = await listAudit(ctx, actor);
  return (
    <Page title="Audit" purpose="Who changed what. Secrets are never written here.">
      <List
        name="/watch/audit"
        caption="Audit log"
        rows={entries}
        keyOf={(entry) => entry.id}
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
        ]}
      />
    </Page>
  );
}
