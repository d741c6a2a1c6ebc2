import { displayAddress } from '../../../../../core/addresses/display';
import type { FeedEventView, FeedView } from '../../../../../operations/apps/feeds';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ProofRow } from '../../../../../ui/domain/ProofRow';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { proofViews } from '../../../../_server/proofViews';
import { AutomationHead } from '../../_parts/AutomationHead';
import { changeFeedAction, switchFeedAction, syncFeedAction } from '../../feedActions';
import { FeedFields } from './FeedFields';

interface Props {
  view: FeedView;
  channels: [string, string][];
  countries: [string, string][];
  zone: string | undefined;
  mailboxes: [string, string][];
  admin: boolean;
}

/** One calendar: how it stands, the events that are coming with their reminders and answers, and those that are left out. */
export function FeedPanel({ view, channels, countries, zone, mailboxes, admin }: Props) {
  const { feed, proofs, events, skipped } = view;
  return (
    <Panel className="p-4">
      <AutomationHead
        admin={admin}
        id={feed.id}
        disabledAt={feed.disabledAt}
        onSwitch={switchFeedAction}
        actions={
          <>
            <ActionButton action={syncFeedAction.bind(null, feed.id)}>Read it now</ActionButton>
            <DialogForm open="Change" title={feed.name} submit="Save" action={changeFeedAction.bind(null, feed.id)}>
              <FeedFields channels={channels} countries={countries} zone={zone} mailboxes={mailboxes} present={feed} />
            </DialogForm>
          </>
        }
      >
        <p className="flex items-center gap-2">
          <ProofRow proofs={proofViews(proofs)} />
          <code>{feed.shownUrl}</code>
          <span className="text-soft">Windgap calls this</span>
        </p>
        <p className="mt-1">
          <Standing feed={feed} />
        </p>
        {feed.problem && (
          <FindingLine
            finding={{
              code: 'feed-not-read',
              severity: 'error',
              problem: feed.problem,
              remedy: 'Copy the address again from the calendar’s settings. What is planned stays planned.',
            }}
          />
        )}
        {feed.calendarName && (
          <FindingLine
            finding={{
              code: 'feed-one-calendar',
              severity: 'notice',
              problem: `This feed holds the calendar “${feed.calendarName}” and no other.`,
              remedy: 'Events in another calendar of the same people need a feed of their own.',
            }}
          />
        )}
        {feed.problems.map(({ title, reason }) => (
          <FindingLine
            key={`${title} ${reason}`}
            finding={{
              code: 'event-not-placed',
              severity: 'attention',
              problem: `“${title || 'An event without a title'}”: ${reason}`,
              remedy: 'Fix the event in the calendar.',
            }}
          />
        ))}
      </AutomationHead>
      {events.length > 0 && (
        <Table
          caption={`Events of ${feed.name}`}
          rows={events}
          keyOf={({ event }) => event.eventKey}
          columns={[
            { head: 'Event', cell: ({ event }) => event.title || 'without a title' },
            {
              head: 'Begins',
              className: 'whitespace-nowrap',
              cell: ({ event }) => event.allDay ?? <ClockTime at={event.startsAt} />,
            },
            {
              head: 'Phones',
              className: 'font-mono',
              cell: ({ event }) =>
                (event.phones.length > 0 ? event.phones.map(displayAddress) : event.emails).join(', '),
            },
            { head: 'Reminders', cell: (row) => <Reminders view={row} /> },
            { head: 'Answer', cell: ({ event }) => <Answer event={event} /> },
          ]}
        />
      )}
      {skipped.length > 0 && (
        <details className="mt-3" open={events.length === 0}>
          <summary className="cursor-pointer text-[13px]">
            {skipped.length} {skipped.length === 1 ? 'event has' : 'events have'} no reminder
          </summary>
          <ul className="mt-1 list-disc pl-5 text-[13px]" aria-label={`Events of ${feed.name} without a reminder`}>
            {skipped.map((event) => (
              <li key={event.eventKey}>
                {event.title || 'without a title'}, {event.allDay ?? <ClockTime at={event.startsAt} />}:{' '}
                <span className="text-soft">{event.reason}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </Panel>
  );
}

function Standing({ feed }: { feed: FeedView['feed'] }) {
  if (feed.disabledAt !== null)
    return (
      <span className="text-clay">
        Switched off <Age at={feed.disabledAt} />: no reminder leaves.
      </span>
    );
  if (feed.syncedAt === null) return <span className="text-ochre-ink">Waiting to be read for the first time.</span>;
  return (
    <>
      Read <Age at={feed.syncedAt} past />, next <Age at={feed.syncedAt + feed.periodMinutes * 60_000} />
    </>
  );
}

function Reminders({ view: { event, reminders } }: { view: FeedEventView }) {
  if (event.state === 'cancelled') return <span className="text-soft">Cancelled. {event.reason}</span>;
  const shown = reminders.filter(({ state }) => state !== 'cancelled');
  return (
    <ul>
      {shown.map((run) => {
        const last = run.results.at(-1);
        if (run.state === 'failed')
          return (
            <li key={run.id} className="text-clay">
              <ProofMark state="broken" label="" size={11} /> {last?.finding?.problem ?? last?.said}
            </li>
          );
        if (run.state === 'done')
          return (
            <li key={run.id}>
              <Link href={`/watch/messages/${last?.ref}`}>Sent</Link> <Age at={run.dueAt} past />
            </li>
          );
        return (
          <li key={run.id}>
            Leaves <Age at={run.dueAt} />
          </li>
        );
      })}
    </ul>
  );
}

function Answer({ event }: { event: FeedEventView['event'] }) {
  if (event.answer === null) return <span className="text-soft">none yet</span>;
  return (
    <span className={event.answer === 'no' ? 'text-clay' : ''}>
      <Link href={`/watch/messages/${event.answerMessageId}`}>{event.answer === 'yes' ? 'Yes' : 'No'}</Link>{' '}
      {event.answeredAt && <Age at={event.answeredAt} past />}
    </span>
  );
}
