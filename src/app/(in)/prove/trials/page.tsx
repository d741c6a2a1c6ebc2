import { listTrials, type TrialView } from '../../../../operations/changeTrials';
import { hasRole } from '../../../../operations/context';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { List } from '../../../../ui/list/List';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { trialMinutes } from '../../../_server/onTrial/trialMode';
import { signedIn } from '../../../_server/session';
import { keepTrialAction, readTrialAction, revertTrialAction } from './actions';
import { TrialMode } from './TrialMode';

const STATES: Record<TrialView['state'], string> = {
  running: '○ on trial',
  kept: '● kept',
  reverted: '▲ reverted',
  stuck: '■ not reverted',
};

export default async function TrialsPage() {
  const { ctx, actor, since } = await signedIn();
  if (!hasRole(actor, 'administrator')) return <Empty what="Administrators make changes of the set-up on trial." />;
  const [trials, minutes] = await Promise.all([listTrials(ctx, actor), trialMinutes()]);
  const running = trials.filter(({ state }) => state === 'running');
  const ended = trials.filter(({ state }) => state !== 'running');
  return (
    <Page
      title="Changes on trial"
      purpose="A change that is made on trial stays if the hops it touches are proven again in time, by traffic or by delivery tests. If not, it is reverted by itself, at the provider, too."
    >
      <LiveRefresh topics={['trial', 'channel', 'app', 'routing']} since={since} />
      <Section title="Trial mode" id="mode">
        <Panel className="max-w-[420px] p-4">
          <TrialMode minutes={minutes} />
        </Panel>
      </Section>
      <Section title="Running trials" id="running">
        {running.length === 0 ? (
          <Empty what="No change is on trial. Turn on trial mode, then make a change." />
        ) : (
          running.map((trial) => <Running key={trial.id} trial={trial} />)
        )}
      </Section>
      {ended.length > 0 && (
        <Section title="Past trials" id="ended">
          <List
            name="/prove/trials"
            caption="Past trials"
            rows={ended}
            keyOf={({ id }) => id}
            columns={[
              {
                head: 'Outcome',
                className: 'whitespace-nowrap',
                cell: ({ state }) => <span className={state === 'stuck' ? 'text-clay' : ''}>{STATES[state]}</span>,
              },
              {
                head: 'Change',
                className: 'w-full',
                cell: ({ what, said }) => (
                  <>
                    {what}
                    {said && <span className="block text-[13px] text-soft">{said}</span>}
                  </>
                ),
              },
              { head: 'By', cell: ({ by }) => by },
              { head: 'Ended', className: 'whitespace-nowrap', cell: ({ ended: at }) => (at ? <Age at={at} /> : '') },
              {
                head: 'Reviewed',
                cell: ({ id, unread }) =>
                  unread && <ActionButton action={readTrialAction.bind(null, id)}>Mark as reviewed</ActionButton>,
              },
            ]}
          />
        </Section>
      )}
    </Page>
  );
}

function Running({ trial }: { trial: TrialView }) {
  return (
    <Panel className="mb-3 p-4">
      <div data-trial={trial.id}>
        <p className="font-medium">{trial.what}</p>
        <p className="text-[13px] text-soft">
          {trial.by}, <Age at={trial.begun} /> · reverted at <ClockTime at={trial.until} /> unless proven
        </p>
        {trial.said && <p className="mt-1 text-[13px] text-clay">{trial.said}</p>}
        <ul className="mt-2 text-[13px]">
          {trial.needs.map(({ words, of, proven }) => (
            <li key={`${words} ${of}`} data-proven={proven}>
              <span aria-hidden>{proven ? '● ' : '○ '}</span>
              {words}
              {of && ` of ${of}`}: {proven ? 'proven since' : 'not proven yet'}
            </li>
          ))}
        </ul>
        <div className="mt-3 flex gap-2">
          <ActionButton action={keepTrialAction.bind(null, trial.id)}>Keep now</ActionButton>
          <ActionButton tone="danger" action={revertTrialAction.bind(null, trial.id)}>
            Revert now
          </ActionButton>
        </div>
      </div>
    </Panel>
  );
}
