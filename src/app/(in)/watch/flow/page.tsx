import { type FlowRow, type FlowSpan, getFlow } from '../../../../operations/log';
import { type Watched, watchedChannels } from '../../../../operations/readiness';
import { elapsedWords } from '../../../../ui/domain/elapsed';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../ui/primitives/layout';
import { type Column, Table } from '../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { FlowChart } from './FlowChart';

const STATES: Record<Watched['inbound'] | Watched['taken'], string> = {
  usual: '● usual',
  silent: '▲ silent',
  fell: '▲ below usual',
  'cannot tell': '○ not enough data',
};

export default async function FlowPage({ searchParams }: { searchParams: Promise<{ span?: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { span } = await searchParams;
  const chosen: FlowSpan = span === 'week' ? 'week' : 'day';
  const [flow, watched] = await Promise.all([getFlow(ctx, actor, chosen), watchedChannels(ctx, actor)]);
  const from = new Date(flow.since).toISOString();
  const failed = flow.buckets.reduce((sum, bucket) => sum + bucket.failed, 0);
  return (
    <Page
      title="Traffic"
      purpose="Inbound and outbound messages, failures by cause, and queues. Every figure leads to the messages behind it."
      actions={
        <nav aria-label="Span" className="flex gap-3 text-[13px]">
          {(['day', 'week'] as const).map((each) => (
            <Link
              key={each}
              href={`/watch/flow?span=${each}`}
              aria-current={each === chosen ? 'true' : undefined}
              className={each === chosen ? 'plain font-semibold text-heather' : undefined}
            >
              {each === 'day' ? '24 hours' : '7 days'}
            </Link>
          ))}
        </nav>
      }
    >
      <LiveRefresh since={since} topics={['message']} />
      <Section title={chosen === 'day' ? 'Hour by hour' : 'In steps of six hours'} id="hours">
        <Panel className="p-4">
          <FlowChart buckets={flow.buckets} step={flow.step} />
          <details className="mt-2">
            <summary className="cursor-pointer text-[13px] text-soft">The exact numbers</summary>
            <div className="mt-2">
              <Table
                caption="Messages in steps of time"
                rows={[...flow.buckets].reverse()}
                keyOf={({ at }) => String(at)}
                columns={[
                  {
                    head: 'From',
                    cell: ({ at }) => (
                      <Link href={`/watch/messages?${range(at, flow.step)}`}>
                        <ClockTime at={at} />
                      </Link>
                    ),
                  },
                  { head: 'Received', figures: true, cell: ({ received }) => received },
                  { head: 'Delivered', figures: true, cell: ({ delivered }) => delivered },
                  { head: 'In progress', figures: true, cell: ({ underWay }) => underWay },
                  { head: 'Failed', figures: true, cell: ({ failed: n }) => n },
                ]}
              />
            </div>
          </details>
        </Panel>
      </Section>
      <Section title="Baselines" id="baselines" aside="a channel is compared with its own last weeks">
        <Table
          caption="Baselines"
          rows={watched}
          keyOf={({ channel }) => channel.id}
          columns={[
            {
              head: 'Channel',
              className: 'w-full',
              cell: ({ channel, tooFewTo }) => (
                <>
                  <Link href={`/connect/channels/${channel.id}`}>{channel.name}</Link>
                  {tooFewTo.length > 0 && (
                    <span className="block text-[13px] text-soft">
                      Not enough data for receipts by country: {tooFewTo.join(', ')}
                    </span>
                  )}
                </>
              ),
            },
            { head: 'Inbound', className: 'whitespace-nowrap', cell: ({ inbound }) => STATES[inbound] },
            { head: 'Accepted by provider', className: 'whitespace-nowrap', cell: ({ taken }) => STATES[taken] },
            {
              head: 'Receipts',
              className: 'whitespace-nowrap',
              cell: ({ receipts }) => (receipts ? STATES[receipts] : 'not available'),
            },
          ]}
        />
      </Section>
      <Section title="Why messages failed" id="causes" aside={`${failed} failed`}>
        {flow.causes.length === 0 ? (
          <p className="text-soft">None failed.</p>
        ) : (
          <Table
            caption="Failures by cause"
            rows={flow.causes}
            keyOf={({ key }) => key}
            columns={[
              {
                head: 'Cause',
                className: 'w-full',
                cell: ({ key, name }) => (
                  <Link href={`/watch/messages?cause=${key}&state=failed&since=${from}`}>{name}</Link>
                ),
              },
              { head: 'Messages', figures: true, cell: ({ messages }) => messages },
              {
                head: 'Of those that failed',
                figures: true,
                className: 'whitespace-nowrap',
                cell: ({ messages }) => share(messages, failed),
              },
              { head: 'Last', className: 'whitespace-nowrap', cell: ({ last }) => <Age at={last} past /> },
            ]}
          />
        )}
      </Section>
      <div className="grid gap-x-6 lg:grid-cols-2">
        <Section title="By channel" id="channels">
          <Table
            caption="Messages by channel"
            rows={flow.channels}
            keyOf={({ key }) => key}
            columns={rates('channel', from)}
          />
        </Section>
        <Section title="By country" id="countries">
          <Table
            caption="Messages by country"
            rows={flow.countries}
            keyOf={({ key }) => key}
            columns={rates('country', from)}
          />
        </Section>
      </div>
      <Section title="Waiting now" id="queues">
        <Table
          caption="Queues by channel"
          rows={flow.queues}
          keyOf={({ channelId }) => channelId}
          columns={[
            {
              head: 'Channel',
              className: 'w-full',
              cell: ({ channelId, name }) => <Link href={`/connect/channels/${channelId}`}>{name}</Link>,
            },
            {
              head: 'Waiting',
              figures: true,
              cell: ({ channelId, waiting }) => (
                <Link href={`/watch/messages?channel=${channelId}&state=queued`}>{waiting}</Link>
              ),
            },
            { head: 'Pace', figures: true, className: 'whitespace-nowrap', cell: ({ pace }) => `${pace} a second` },
            {
              head: 'Done in',
              className: 'whitespace-nowrap',
              cell: ({ waiting, ms }) =>
                waiting === 0 ? '' : Number.isFinite(ms) ? elapsedWords(ms) : 'not at this pace',
            },
            {
              head: 'Oldest',
              className: 'whitespace-nowrap',
              cell: ({ oldest }) => (oldest === null ? '' : <Age at={oldest} past />),
            },
          ]}
        />
      </Section>
    </Page>
  );
}

function rates(by: 'channel' | 'country', since: string): Column<FlowRow>[] {
  const link = ({ key }: FlowRow, more: string) => `/watch/messages?${by}=${key}&since=${since}${more}`;
  return [
    {
      head: by === 'channel' ? 'Channel' : 'Country',
      className: 'w-full',
      cell: (row) => <Link href={link(row, '')}>{row.name}</Link>,
    },
    { head: 'Sent', figures: true, cell: (row) => <Link href={link(row, '&direction=out')}>{row.sent}</Link> },
    { head: 'Delivered', figures: true, className: 'whitespace-nowrap', cell: (row) => share(row.delivered, row.sent) },
    { head: 'Read', figures: true, className: 'whitespace-nowrap', cell: (row) => share(row.read, row.sent) },
    { head: 'Failed', figures: true, cell: (row) => <Link href={link(row, '&state=failed')}>{row.failed}</Link> },
  ];
}

function share(part: number, whole: number): string {
  return whole === 0 ? '' : `${((part / whole) * 100).toFixed(1)} %`;
}

function range(at: number, step: number): URLSearchParams {
  return new URLSearchParams({ since: new Date(at).toISOString(), until: new Date(at + step).toISOString() });
}
