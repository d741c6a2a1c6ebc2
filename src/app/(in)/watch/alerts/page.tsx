import { wordsOfLength } from '../../../../core/text/length';
import { listAlerts } from '../../../../operations/readiness';
import { SeverityMark } from '../../../../ui/domain/Findings';
import { Link } from '../../../../ui/primitives/Link';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';

export default async function AlertsPage({ searchParams }: { searchParams: Promise<{ ended?: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const ended = (await searchParams).ended === '1';
  const alerts = await listAlerts(ctx, actor, ended);
  return (
    <ListPage
      title="Alerts"
      purpose="What became broken or is about to lose messages: when it began, and when it ended."
      page="/watch/alerts"
      since={since}
      topics={['readiness']}
      actions={
        <Link href={ended ? '/watch/alerts' : '/watch/alerts?ended=1'} className="self-center text-[13px]">
          {ended ? 'Lasting' : 'Ended'}
        </Link>
      }
      empty={{
        what: ended ? 'No alert has ended yet.' : 'No alert at the moment. What breaks is entered here within seconds.',
      }}
      rows={alerts}
      keyOf={({ id }) => String(id)}
      columns={[
        {
          head: 'What',
          className: 'w-full',
          value: ({ problem }) => problem,
          cell: ({ problem, remedy, severity, ended: end }) => (
            <>
              <span className="block max-w-[80ch]">
                {end === undefined && <SeverityMark severity={severity} />}
                {problem}
              </span>
              {end === undefined && <span className="block max-w-[80ch] text-[13px] text-soft">{remedy}</span>}
            </>
          ),
        },
        {
          head: 'About',
          className: 'whitespace-nowrap',
          value: ({ subject }) => subject,
          cell: ({ subject, href }) => <Link href={href}>{subject}</Link>,
        },
        {
          head: 'Began',
          className: 'whitespace-nowrap',
          value: ({ began }) => began,
          cell: ({ began }) => <ClockTime at={began} />,
        },
        ended
          ? {
              head: 'Ended',
              className: 'whitespace-nowrap',
              value: ({ ended: at }) => at ?? 0,
              cell: ({ began, ended: at }) =>
                at !== undefined && (
                  <>
                    <ClockTime at={at} /> <span className="text-soft">after {wordsOfLength(at - began)}</span>
                  </>
                ),
            }
          : {
              head: 'Lasts',
              className: 'whitespace-nowrap',
              value: ({ began }) => -began,
              cell: ({ began }) => <Age at={began} past />,
            },
      ]}
    />
  );
}
