import { wordsOfLength } from '../../../../core/text/length';
import { listAlerts, toldOfAlerts } from '../../../../operations/alerts';
import { hasRole } from '../../../../operations/context';
import { SeverityMark } from '../../../../ui/domain/Findings';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { Link } from '../../../../ui/primitives/Link';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { takeAction } from './actions';
import { ToldLines } from './ToldLines';

export default async function AlertsPage({ searchParams }: { searchParams: Promise<{ ended?: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const ended = (await searchParams).ended === '1';
  const alerts = await listAlerts(ctx, actor, ended);
  const admin = hasRole(actor, 'administrator');
  const told = !admin
    ? []
    : await toldOfAlerts(
        ctx,
        actor,
        alerts.map(({ id }) => id),
      );
  return (
    <ListPage
      title="Alerts"
      purpose="What became broken or is about to lose messages: when it began, and when it ended."
      page="/watch/alerts"
      since={since}
      topics={['readiness']}
      actions={
        <>
          <Link href={ended ? '/watch/alerts' : '/watch/alerts?ended=1'} className="self-center text-[13px]">
            {ended ? 'Lasting' : 'Ended'}
          </Link>
          {admin && (
            <Link href="/watch/alerts/rules" className="self-center text-[13px]">
              Alert rules
            </Link>
          )}
        </>
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
          cell: ({ id, problem, remedy, severity, ended: end }) => (
            <>
              <span className="block max-w-[80ch]">
                {end === undefined && <SeverityMark severity={severity} />}
                {problem}
              </span>
              {end === undefined && <span className="block max-w-[80ch] text-[13px] text-soft">{remedy}</span>}
              <ToldLines told={told.filter(({ alert }) => alert === id)} />
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
        {
          head: 'Seen to by',
          className: 'whitespace-nowrap text-right',
          value: ({ takenBy }) => takenBy ?? '',
          cell: ({ id, takenBy, ended: end }) =>
            takenBy ??
            (admin && end === undefined && <ActionButton action={takeAction.bind(null, id)}>Take it</ActionButton>),
        },
      ]}
    />
  );
}
