import { listFeeds } from '../../../../../operations/apps/feeds';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page, Section } from '../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { appContext, mailChannels } from '../../_parts/appContext';
import { addFeedAction } from '../../feedActions';
import { FeedFields } from './FeedFields';
import { FeedPanel } from './FeedPanel';

export default async function FeedsPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since, app, channels, countries, zone, admin } = await appContext(params);
  const feeds = await listFeeds(ctx, actor, app.id);
  const fields = { channels, countries, zone, mailboxes: await mailChannels(ctx, actor) };
  const add = admin && (
    <DialogForm
      open="Add a calendar feed"
      title="A calendar whose events are reminded of"
      description="Phone numbers and e-mail addresses are found in each event’s title, attendees and description."
      submit="Read it"
      action={addFeedAction.bind(null, app.id)}
    >
      <FeedFields {...fields} />
    </DialogForm>
  );
  return (
    <Page
      title={`Calendar feeds of ${app.name}`}
      purpose={
        <>
          Calendars of <Link href={`/apps/${app.id}`}>{app.name}</Link> that Windgap reads: people in their events get
          reminders, and answer.
        </>
      }
      actions={feeds.length > 0 && add}
    >
      <LiveRefresh since={since} topics={['app', 'run']} />
      {feeds.map((view) => (
        <Section key={view.feed.id} title={view.feed.name} id={view.feed.id}>
          <FeedPanel view={view} {...fields} admin={admin} />
        </Section>
      ))}
      {feeds.length === 0 && <Empty what="No calendar is read yet." next={add} />}
    </Page>
  );
}
