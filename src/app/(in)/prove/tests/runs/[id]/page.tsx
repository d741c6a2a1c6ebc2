import { cause } from '../../../../../../core/delivery/causes';
import type { Verdict } from '../../../../../../core/deliveryTest/judge';
import { hasRole } from '../../../../../../operations/context';
import { getRun, type RunView } from '../../../../../../operations/deliveryTests';
import { getTrail } from '../../../../../../operations/log';
import { elapsedWords } from '../../../../../../ui/domain/elapsed';
import { HopStrip } from '../../../../../../ui/domain/HopStrip';
import { ActionButton } from '../../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../../ui/primitives/Link';
import { Facts, Page, Panel, Section } from '../../../../../../ui/primitives/layout';
import { ClockTime } from '../../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../../_server/orNotFound';
import { signedIn } from '../../../../../_server/session';
import { runTestsAction } from '../../actions';
import { RunMark } from '../../RunMark';

const WHY: Record<RunView['run']['why'], string> = {
  'by-hand': 'started by',
  schedule: 'by its schedule, for',
  change: 'after a change, by',
  published: 'after publishing, by',
  pipeline: 'through the API, by',
  'on-trial': 'for a change on trial, by',
};

export default async function RunPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const { run, words, timing, pace, test, before } = await orNotFound(getRun(ctx, actor, id));
  const last = run.rounds.at(-1);
  const first = last?.messages[0];
  const trail = first ? await getTrail(ctx, actor, first).catch(() => undefined) : undefined;
  return (
    <Page
      title={run.name}
      purpose={words}
      actions={
        test &&
        test.archivedAt === null &&
        hasRole(actor, 'administrator') && (
          <ActionButton action={runTestsAction.bind(null, [test.id])}>Run again</ActionButton>
        )
      }
    >
      <LiveRefresh since={since} topics={['test', 'message', 'delivery']} />
      <Panel className="mb-6 flex flex-wrap items-baseline gap-x-6 gap-y-1 px-4 py-3">
        <span className="text-[17px] font-semibold">
          <RunMark state={run.state} />
        </span>
        <span className="text-soft">
          <ClockTime at={run.startedAt ?? run.askedAt} />, {WHY[run.why]} {run.askedBy}
        </span>
        {run.startedAt !== null && run.endedAt !== null && (
          <span>took {elapsedWords(run.endedAt - run.startedAt)}</span>
        )}
        {before && (
          <Link href={`/prove/tests/runs/${before.id}`}>
            the run before: <RunMark state={before.state} />
          </Link>
        )}
        <span className="ml-auto flex gap-4 text-[13px]">
          {test && <Link href={`/prove/tests/${test.id}`}>The test</Link>}
          <a href={`/prove/tests/runs/${run.id}/report.xml`} className="underline underline-offset-4">
            JUnit XML
          </a>
          <a href={`/prove/tests/runs/${run.id}/report.json`} className="underline underline-offset-4">
            JSON
          </a>
        </span>
        {run.problem && (
          <p className="w-full text-ochre-ink" data-why>
            {run.problem}
          </p>
        )}
      </Panel>
      {run.rounds.map((round, index) => (
        <Section
          key={round.began}
          id={`round-${index + 1}`}
          title={run.content.times > 1 ? `Round ${index + 1} of ${run.content.times}` : 'Expected and seen'}
          aside={<ClockTime at={round.began} />}
        >
          <Verdicts verdicts={round.verdicts} />
        </Section>
      ))}
      {((timing && timing.count > 1) || pace) && (
        <Section title="Times" id="times" aside="From the stimulus to the last thing awaited">
          <Panel className="px-4 py-3">
            <Facts
              items={[
                ...(timing
                  ? ([
                      ['Rounds', String(timing.count)],
                      ['Shortest', `${timing.min} ms`],
                      ['Median', `${timing.p50} ms`],
                      ['95 %', `${timing.p95} ms`],
                      ['Longest', `${timing.max} ms`],
                    ] as [string, string][])
                  : []),
                ...(pace ? ([['Demanded', `${pace.expected}: ${pace.said}`]] as [string, string][]) : []),
              ]}
            />
          </Panel>
        </Section>
      )}
      {trail?.legs.map((leg) => (
        <Section
          key={leg.message.id}
          id={leg.message.id}
          title={leg.message.direction === 'in' ? 'The way in' : 'The way out'}
          aside={<Link href={`/watch/messages/${leg.message.id}`}>Its trail</Link>}
        >
          <HopStrip hops={leg.hops} evidence={trail.evidence} label={`Hops of ${leg.message.id}`} />
        </Section>
      ))}
    </Page>
  );
}

function Verdicts({ verdicts }: { verdicts: readonly Verdict[] }) {
  return (
    <table className="w-full text-[13px]">
      <thead className="text-left text-soft">
        <tr>
          <th className="w-28 py-1 pr-3 font-normal">Verdict</th>
          <th className="py-1 pr-3 font-normal">Expected that</th>
          <th className="py-1 pr-3 font-normal">Seen</th>
          <th className="py-1 text-right font-normal">After</th>
        </tr>
      </thead>
      <tbody>
        {verdicts.map(({ holds, expected, said, tookMs, cause: why }) => (
          <tr key={expected} className="border-t border-line align-top" data-holds={String(holds)}>
            <td className="py-1.5 pr-3 whitespace-nowrap">
              {holds === undefined ? (
                <span className="text-heather">◌ Awaited</span>
              ) : holds ? (
                <span className="text-moss">■ Holds</span>
              ) : (
                <span className="text-clay">◧ Fails</span>
              )}
            </td>
            <td className="w-[42%] py-1.5 pr-3">{expected}</td>
            <td className="py-1.5 pr-3">
              {said}
              {why && holds === false && <p className="mt-0.5 text-soft">Fix: {cause(why).remedy}</p>}
            </td>
            <td className="py-1.5 text-right font-mono tabular-nums whitespace-nowrap">
              {tookMs === undefined ? '' : elapsedWords(tookMs)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
