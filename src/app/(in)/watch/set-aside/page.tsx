import { hasRole } from '../../../../operations/context';
import { viewQueues, viewSetAside } from '../../../../operations/setAside';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Section } from '../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { ListPage } from '../../_list/ListPage';
import { dropAction, dropAllAction, processAgainAction, processAllAgainAction } from './actions';
import { ListWord } from './ListWord';
import { Queues } from './Queues';

export default async function SetAsidePage({ searchParams }: { searchParams: Promise<{ decided?: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const decided = (await searchParams).decided === '1';
  const [items, queues] = await Promise.all([viewSetAside(ctx, actor, decided), viewQueues(ctx, actor)]);
  const admin = hasRole(actor, 'administrator');
  return (
    <ListPage
      title="Set aside"
      purpose="What Windgap could not process. Everything else goes on; each of these waits until somebody decides."
      page="/watch/set-aside"
      since={since}
      topics={['queue', 'inbound']}
      actions={
        <Link href={decided ? '/watch/set-aside' : '/watch/set-aside?decided=1'} className="self-center text-[13px]">
          {decided ? 'Waiting for a decision' : 'Decided'}
        </Link>
      }
      empty={{
        what: decided
          ? 'Nobody has had to decide about anything yet.'
          : 'Nothing is set aside. A request that cannot be read, or a message, event or run at which Windgap itself fails, comes here.',
      }}
      bulk={
        admin && !decided
          ? [
              { label: 'Process again', action: processAllAgainAction },
              { label: 'Drop', ask: { name: 'why', label: 'Why they are not needed' }, action: dropAllAction },
            ]
          : undefined
      }
      rows={items}
      keyOf={({ key }) => key}
      after={
        <Section title="Queues" id="queues">
          <Queues queues={queues} />
        </Section>
      }
      columns={[
        {
          head: 'What',
          className: 'w-full',
          value: ({ title }) => title,
          cell: ({ id, title, href, reason, unlisted = [], decided: decision }) => (
            <>
              {href ? <Link href={href}>{title}</Link> : <span>{title}</span>}
              <span className="block max-w-[70ch] text-[13px] break-words text-clay">{reason}</span>
              {admin && !decision && unlisted.map((each) => <ListWord key={each.word} requestId={id} {...each} />)}
            </>
          ),
        },
        {
          head: 'Of',
          className: 'whitespace-nowrap',
          value: ({ subject }) => subject?.name ?? '',
          cell: ({ subject }) => subject && <Link href={subject.href}>{subject.name}</Link>,
        },
        {
          head: 'Failed',
          className: 'whitespace-nowrap text-right',
          value: ({ failures }) => failures,
          cell: ({ failures }) => (failures === 1 ? 'once' : `${failures} times`),
        },
        {
          head: 'Since',
          className: 'whitespace-nowrap',
          value: ({ since: at }) => at,
          cell: ({ since: at }) => <Age at={at} past />,
        },
        {
          head: decided ? 'Decided' : 'Decision',
          className: 'whitespace-nowrap text-right',
          cell: ({ key, title, decided: decision }) =>
            decision ? (
              <span className="text-soft">
                {decision.how} by {decision.by} <ClockTime at={decision.at} />
              </span>
            ) : (
              admin && (
                <span className="inline-flex gap-2">
                  <ActionButton action={processAgainAction.bind(null, key)}>Process again</ActionButton>
                  <DialogForm
                    open="Drop"
                    label={`Drop ${title}`}
                    title={`Drop “${title}”`}
                    description="It is never processed. What came stays stored as it came, and the audit says who decided."
                    submit="Drop"
                    action={dropAction.bind(null, key)}
                  >
                    <TextField name="why" label="Why it is not needed" />
                  </DialogForm>
                </span>
              )
            ),
        },
      ]}
    />
  );
}
