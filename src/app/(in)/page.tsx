import { getOverview } from '../../operations/readiness';
import { Pass } from '../../ui/pass/Pass';
import { buttonClass } from '../../ui/primitives/Button';
import { Link } from '../../ui/primitives/Link';
import { Empty, Page, Section } from '../../ui/primitives/layout';
import { LiveRefresh } from '../../ui/shell/LiveRefresh';
import { signedIn } from '../_server/session';

export default async function OverviewPage() {
  const { ctx, actor, since } = await signedIn();
  const overview = await getOverview(ctx, actor);
  const { today } = overview;
  const figures: [string, number, string][] = [
    ['Received', today.received, '/watch/messages?direction=in'],
    ['Sent', today.sent, '/watch/messages?direction=out'],
    ['Delivered', today.delivered, '/watch/messages?state=delivered'],
    ['Failed', today.failed, '/watch/messages?state=failed'],
    ['Waiting', today.waiting, '/watch/messages?state=queued'],
    ['Outcome unknown', today.uncertain, '/watch/messages?state=uncertain'],
  ];
  return (
    <Page title="Overview" purpose="What is proven, what is not, and what to do next.">
      <LiveRefresh since={since} topics={['message', 'channel', 'account', 'app', 'delivery']} />
      {overview.accounts.length === 0 ? (
        <Empty
          what="Nothing is connected yet. A provider account comes first: with it come numbers, and a number becomes a channel that people can text."
          next={
            <Link href="/connect/providers/new" className={`plain ${buttonClass('primary')}`}>
              Connect a provider
            </Link>
          }
        />
      ) : (
        <>
          <Section title="Paths" id="pass">
            <Pass input={overview} troubles={overview.troubles} />
          </Section>
          <Section title="Last 24 hours" id="day">
            <dl className="grid grid-cols-2 gap-px overflow-hidden rounded-md border border-line bg-line sm:grid-cols-3 lg:grid-cols-6">
              {figures.map(([label, count, href]) => (
                <div key={label} className="bg-panel px-4 py-3">
                  <dt className="text-[13px] text-soft">{label}</dt>
                  <dd className="font-mono text-xl tabular-nums">
                    <Link href={href} className="plain hover:text-ridge">
                      {count}
                    </Link>
                  </dd>
                </div>
              ))}
            </dl>
          </Section>
        </>
      )}
    </Page>
  );
}
