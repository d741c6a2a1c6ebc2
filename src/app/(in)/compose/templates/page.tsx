import { hasRole } from '../../../../operations/context';
import { listTemplates, templatePurposes } from '../../../../operations/templates';
import { StandingMark } from '../../../../ui/compose/StandingMark';
import { Link } from '../../../../ui/primitives/Link';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { NewTemplate } from './NewTemplate';

export default async function TemplatesPage() {
  const { ctx, actor, since } = await signedIn();
  const [templates, purposes] = await Promise.all([listTemplates(ctx, actor), templatePurposes(ctx, actor)]);
  const admin = hasRole(actor, 'administrator');
  const nameOf = new Map(purposes);
  const writing = admin && <NewTemplate purposes={purposes} tone="primary" />;
  return (
    <ListPage
      title="Templates"
      purpose="What is written once and filled for each person. A chat platform approves its templates before they may be sent; saving one is not submitting it."
      actions={writing}
      page="/compose/templates"
      since={since}
      topics={['template']}
      empty={{
        what: 'A template lets you start a conversation on a chat platform, and says the same thing the same way everywhere else. Write the first, fix what is found, and submit it.',
        next: writing,
      }}
      rows={templates}
      keyOf={({ row }) => row.id}
      columns={[
        {
          head: 'Template',
          className: 'whitespace-nowrap',
          cell: ({ row }) => <Link href={`/compose/templates/${row.id}`}>{row.name}</Link>,
        },
        {
          head: 'Status',
          value: ({ row, standing }) => (row.kind === 'platform' ? standing.state : 'in-use'),
          cell: ({ row, standing }) => (
            <>
              <StandingMark state={row.kind === 'platform' ? standing.state : 'in-use'} />
              {standing.newest && (
                <span className="block text-soft">
                  <Age at={standing.newest.decidedAt ?? standing.newest.submittedAt} />
                </span>
              )}
              {standing.edited && <span className="block text-heather">edited since, not submitted</span>}
              {standing.serving && standing.serving.number !== standing.newest?.number && (
                <span className="block text-soft">version {standing.serving.number} serves</span>
              )}
            </>
          ),
        },
        {
          head: 'Says',
          className: 'w-full',
          cell: ({ row }) => <span className="line-clamp-2">{row.variants[0]?.body}</span>,
        },
        {
          head: 'Languages',
          className: 'font-mono text-xs',
          cell: ({ row }) => row.variants.map(({ language }) => language).join(' '),
        },
        {
          head: 'For',
          className: 'whitespace-nowrap',
          cell: ({ row }) => nameOf.get([row.kind, row.accountId].filter(Boolean).join(' ')) ?? row.kind,
        },
        {
          head: 'Category',
          className: 'whitespace-nowrap',
          cell: ({ row }) => (row.kind === 'platform' ? row.category : ''),
        },
        {
          head: 'Changed',
          className: 'whitespace-nowrap',
          value: ({ row }) => row.changedAt,
          cell: ({ row }) => <Age at={row.changedAt} />,
        },
      ]}
    />
  );
}
