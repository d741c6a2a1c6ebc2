import { hasRole } from '../../../../../operations/context';
import { getTest } from '../../../../../operations/deliveryTests';
import { elapsedWords } from '../../../../../ui/domain/elapsed';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Page, Section } from '../../../../../ui/primitives/layout';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { archiveTestAction, runTestsAction } from '../actions';
import { choicesFor } from '../choices';
import { RunMark } from '../RunMark';
import { TestEditor } from '../TestEditor';

export default async function TestPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const { test, runs, words } = await orNotFound(getTest(ctx, actor, id));
  const admin = hasRole(actor, 'administrator');
  return (
    <Page
      title={test.name}
      purpose={words}
      actions={
        admin && (
          <>
            <ActionButton
              tone="quiet"
              action={archiveTestAction.bind(null, id)}
              confirm={{
                title: 'Archive this test?',
                consequence: 'It runs no more; its runs stay readable.',
                go: 'Archive it',
              }}
            >
              Archive
            </ActionButton>
            <ActionButton action={runTestsAction.bind(null, [id])}>Run</ActionButton>
          </>
        )
      }
    >
      <LiveRefresh since={since} topics={['test']} />
      {admin && (
        <TestEditor
          id={id}
          name={test.name}
          content={test.content}
          everyMinutes={test.everyMinutes ?? undefined}
          guardsPublishing={test.guardsPublishing === 1}
          choices={await choicesFor(ctx, actor)}
        />
      )}
      <div className="mt-6">
        <Section title="Runs" id="runs" aside={runs.length === 0 ? 'It has never run' : undefined}>
          <table className="w-full text-[13px]">
            <tbody>
              {runs.map((run) => (
                <tr key={run.id} className="border-t border-line">
                  <td className="w-28 py-1.5">
                    <Link href={`/prove/tests/runs/${run.id}`}>
                      <RunMark state={run.state} />
                    </Link>
                  </td>
                  <td className="w-48 py-1.5">
                    <ClockTime at={run.startedAt ?? run.askedAt} />
                  </td>
                  <td className="py-1.5 text-soft">
                    {run.problem ??
                      run.rounds.flatMap(({ verdicts }) => verdicts).find(({ holds }) => holds === false)?.said ??
                      ''}
                  </td>
                  <td className="py-1.5 text-right font-mono tabular-nums">
                    {run.startedAt !== null && run.endedAt !== null && elapsedWords(run.endedAt - run.startedAt)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      </div>
    </Page>
  );
}
