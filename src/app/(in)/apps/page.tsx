import { listApps } from '../../../operations/apps';
import { hasRole } from '../../../operations/context';
import { ProofRow } from '../../../ui/domain/ProofRow';
import { Link } from '../../../ui/primitives/Link';
import { proofViews } from '../../_server/proofViews';
import { signedIn } from '../../_server/session';
import { ListPage } from '../_list/ListPage';
import { AddApp } from './AddApp';

export default async function AppsPage() {
  const { ctx, actor, since } = await signedIn();
  const apps = await listApps(ctx, actor);
  const add = hasRole(actor, 'administrator') && <AddApp />;
  return (
    <ListPage
      title="Apps"
      purpose="Business applications, and what connects each with Windgap in either direction."
      actions={apps.length > 0 && add}
      page="/apps"
      since={since}
      topics={['app', 'delivery']}
      empty={{
        what: 'No application is connected. With an API key an app sends messages; with a webhook subscription it receives events.',
        next: add,
      }}
      rows={apps}
      keyOf={({ app }) => app.id}
      columns={[
        { head: 'App', cell: ({ app }) => <Link href={`/apps/${app.id}`}>{app.name}</Link> },
        { head: 'What it is', cell: ({ app }) => app.description },
        { head: 'Call in · call out', cell: ({ proofs }) => <ProofRow proofs={proofViews(proofs)} /> },
        { head: 'API keys', figures: true, cell: (row) => row.keys },
        { head: 'Webhooks', figures: true, cell: (row) => row.subscriptions },
        { head: 'Inbound messages', cell: (row) => (row.routed ? 'routed to it' : 'not routed to it') },
      ]}
    />
  );
}
