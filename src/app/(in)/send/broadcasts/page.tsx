import { STATE_WORDS } from '../../../../core/broadcast/course';
import {
  approvalInWords,
  type BroadcastLine,
  listBroadcasts,
  mayDo,
  readBroadcastRules,
} from '../../../../operations/broadcasts';
import { hasRole } from '../../../../operations/context';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Section } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { createBroadcastAction } from './actions';
import { BroadcastState } from './BroadcastState';
import { ProgressBar } from './ProgressBar';
import { RulesForm } from './RulesForm';

export default async function BroadcastsPage() {
  const { ctx, actor, since } = await signedIn();
  const [lines, rules, mayWrite] = await Promise.all([
    listBroadcasts(ctx, actor),
    readBroadcastRules(ctx.store),
    mayDo(ctx.store, actor, 'prepare'),
  ]);
  const writing = mayWrite && (
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
            title="Rules for all broadcasts"
            id="rules"
            aside="Whoever starts a broadcast that needs a second person does not approve it."
          >
            <RulesForm rules={rules} />
            <p className="mt-2 text-[13px] text-soft">Now: {approvalInWords(rules)}.</p>
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
