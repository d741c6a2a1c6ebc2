import { STATE_WORDS } from '../../../../core/broadcast/course';
import { type BroadcastLine, listBroadcasts, readApprovalRule } from '../../../../operations/broadcasts';
import { hasRole } from '../../../../operations/context';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Section } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { approvalRuleAction, createBroadcastAction } from './actions';
import { BroadcastState } from './BroadcastState';
import { ProgressBar } from './ProgressBar';

export default async function BroadcastsPage() {
  const { ctx, actor, since } = await signedIn();
  const [lines, rule] = await Promise.all([listBroadcasts(ctx, actor), readApprovalRule(ctx.store)]);
  const writing = hasRole(actor, 'agent') && (
    <DialogForm
      open="Write a broadcast"
      tone="primary"
      title="Write a broadcast"
      submit="Begin"
      action={createBroadcastAction}
    >
      <TextField name="name" label="Name" help="For you and your colleagues; recipients do not see it." />
    </DialogForm>
  );
  return (
    <ListPage
      title="Broadcasts"
      purpose="One message to many people. Before it starts you see who gets what, when, from which number and at what cost, and who does not and why."
      actions={writing}
      page="/send/broadcasts"
      since={since}
      topics={['broadcast']}
      empty={{
        what: 'A broadcast says the same to everybody it concerns, such as a stoppage to all who moor above the lock. The first few go out alone; when they arrive, the others follow.',
        next: writing,
      }}
      rows={lines}
      keyOf={({ broadcast }) => broadcast.id}
      after={
        hasRole(actor, 'owner') && (
          <Section
            title="A second person"
            id="approval"
            aside="Whoever starts a broadcast above this does not approve it."
          >
            <DialogForm
              open="Change"
              title="When a second person has to approve"
              submit="Save"
              action={approvalRuleAction}
            >
              <TextField
                name="people"
                label="Above so many people"
                initial={rule.people === null ? '' : String(rule.people)}
                help="Empty: however many they are."
                exact
              />
              <TextField
                name="cost"
                label="Above a cost of"
                initial={rule.micros === null ? '' : String(rule.micros / 1e6)}
                help="In whatever currency it costs. Empty: whatever it costs."
                exact
              />
            </DialogForm>
            <p className="mt-2 text-[13px] text-soft">
              {rule.people === null && rule.micros === null
                ? 'Now: nobody has to.'
                : `Now: above ${[rule.people === null ? undefined : `${rule.people} people`, rule.micros === null ? undefined : `a cost of ${rule.micros / 1e6}`].filter(Boolean).join(' or ')}.`}
            </p>
          </Section>
        )
      }
      columns={[
        {
          head: 'Broadcast',
          className: 'w-full',
          value: ({ broadcast }) => broadcast.name,
          cell: ({ broadcast }) => (
            <>
              <Link href={`/send/broadcasts/${broadcast.id}`}>{broadcast.name}</Link>
              <span className="block text-soft">by {broadcast.startedByName ?? broadcast.createdByName}</span>
            </>
          ),
        },
        {
          head: 'Status',
          className: 'whitespace-nowrap',
          value: ({ broadcast }) => STATE_WORDS[broadcast.state],
          cell: ({ broadcast }) => <BroadcastState state={broadcast.state} />,
        },
        {
          head: 'People',
          className: 'whitespace-nowrap text-right tabular-nums',
          value: ({ going }) => going ?? 0,
          cell: ({ going }) => (going === undefined ? '' : going.toLocaleString('en')),
        },
        {
          head: 'Progress',
          className: 'min-w-52',
          value: ({ progress }) => progress.delivered,
          cell: (line) => <Progress line={line} />,
        },
        {
          head: 'Replies',
          className: 'whitespace-nowrap text-right tabular-nums',
          value: ({ progress }) => progress.replied,
          cell: ({ progress }) => progress.replied || '',
        },
        {
          head: 'Changed',
          className: 'whitespace-nowrap',
          value: ({ broadcast }) => broadcast.changedAt,
          cell: ({ broadcast }) => <Age at={broadcast.changedAt} />,
        },
      ]}
    />
  );
}

function Progress({ line: { broadcast, progress } }: { line: BroadcastLine }) {
  if (broadcast.state === 'draft' || broadcast.state === 'planning') return null;
  return <ProgressBar progress={progress} />;
}
