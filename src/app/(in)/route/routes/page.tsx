import { hasRole } from '../../../../operations/context';
import { getRoutes } from '../../../../operations/routes';
import { automationsBySource, examineSet, pastMessages, routeChoices, routeHits } from '../../../../operations/routing';
import { Page } from '../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { Revisions } from './Revisions';
import { RoutesEditor } from './RoutesEditor';

export default async function RoutesPage({
  searchParams,
}: {
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const { ctx, actor, since } = await signedIn();
  const { message } = await searchParams;
  const { published, draft, revisions } = await getRoutes(ctx, actor);
  const set = draft?.content ?? published.set;
  const [choices, hits, findings, past, automations] = await Promise.all([
    routeChoices(ctx, actor),
    routeHits(ctx),
    examineSet(ctx, actor, set),
    pastMessages(ctx, actor),
    automationsBySource(ctx, actor),
  ]);
  const admin = hasRole(actor, 'administrator');
  return (
    <Page
      title="Routes"
      purpose="Where each inbound message goes: the first route that matches decides. What you write is a draft until it is published."
    >
      <LiveRefresh since={since} topics={['routes']} />
      <RoutesEditor
        published={published}
        draft={draft && { content: draft.content, changedAt: draft.changedAt, by: draft.by }}
        choices={choices}
        hits={hits}
        findings={findings}
        past={past}
        automations={automations}
        asked={message}
        admin={admin}
      />
      <Revisions revisions={revisions} live={published.number} admin={admin} />
    </Page>
  );
}
