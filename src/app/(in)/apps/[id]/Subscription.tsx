import { LATEST_VERSION } from '../../../../core/api/versions';
import type { SubscriptionView } from '../../../../operations/apps';
import { stateWord } from '../../../../ui/domain/Cairn';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { SelectField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { OneTimeValue } from '../../../../ui/forms/OneTimeValue';
import { Panel } from '../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../ui/primitives/Time';
import {
  changeSubscriptionAction,
  endSubscriptionAction,
  pauseAction,
  replaceSecretAction,
  replayAction,
  subscriptionVersionAction,
  testEventAction,
} from '../webhookActions';
import { Deliveries } from './Deliveries';
import { SubscriptionFields } from './SubscriptionFields';

interface Props {
  appName: string;
  subscription: SubscriptionView;
  channels: [string, string][];
  admin: boolean;
}

/** One address that is told: how it stands, what can be done with it, what went there. */
export function Subscription({ appName, subscription, channels, admin }: Props) {
  const ended = subscription.disabledAt !== null;
  return (
    <article aria-label={`Events to ${subscription.url}`} className="mb-3">
      <Panel className="p-4">
        <div className="mb-3 grid gap-1">
          <code className="text-[13px] break-all">{subscription.url}</code>
          <p className="text-[13px] text-soft">
            {whatGoes(subscription, channels)} · made <Age at={subscription.createdAt} /> · version{' '}
            {subscription.apiVersion}
          </p>
          <Standing subscription={subscription} />
          {subscription.overlapUntil && (
            <p className="text-[13px]">
              Signed with the new secret and the one before until <ClockTime at={subscription.overlapUntil} />.
            </p>
          )}
        </div>
        {admin && !ended && <Tools {...{ appName, subscription, channels }} />}
        <Deliveries rows={subscription.deliveries} admin={admin && !ended} />
      </Panel>
    </article>
  );
}

function whatGoes({ events, filter }: SubscriptionView, channels: [string, string][]): string {
  const kinds = events.map((type) =>
    type === 'windgap.message.received' ? 'messages that come in' : 'what becomes of messages',
  );
  const names = filter.channels?.map((id) => channels.find(([known]) => known === id)?.[1] ?? id);
  return [
    capital(kinds.join(' and ')),
    filter.states && `only ${filter.states.map((state) => stateWord(state).toLowerCase()).join(', ')}`,
    filter.allApps && 'also of messages that others sent',
    names && `only over ${names.join(', ')}`,
  ]
    .filter(Boolean)
    .join(', ');
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

const PAUSED_WHY = {
  failing: 'three days of attempts failed',
  gone: 'the app answered that it wants no more there',
  'by-hand': 'somebody here paused it',
  unreadable: 'its settings or its secret cannot be read',
};

function wait(count: number): string {
  if (count === 0) return 'Nothing waits';
  return count === 1 ? '1 event waits' : `${count} events wait`;
}

function Standing({ subscription }: { subscription: SubscriptionView }) {
  const { breaker, pausedAt, pausedWhy, disabledAt, waiting, delivered } = subscription;
  if (disabledAt)
    return (
      <p>
        Ended <ClockTime at={disabledAt} />. {waiting > 0 && `${wait(waiting)} and will not be sent.`}
      </p>
    );
  if (pausedAt)
    return (
      <p className={`flex items-center gap-2 ${pausedWhy === 'by-hand' ? 'text-ochre-ink' : 'text-clay'}`}>
        <ProofMark state={pausedWhy === 'by-hand' ? 'unproven' : 'broken'} label="" />
        <span>
          Paused since <ClockTime at={pausedAt} />: {PAUSED_WHY[pausedWhy ?? 'by-hand']}. {wait(waiting)}; what comes is
          kept.
        </span>
      </p>
    );
  if (breaker?.open)
    return (
      <p className="flex items-center gap-2 text-clay">
        <ProofMark state="broken" label="" />
        <span>
          Not accepted since <ClockTime at={breaker.failingSince ?? breaker.open.since} />. {wait(waiting)}; next
          attempt <Age at={breaker.open.retryAt} />.
        </span>
      </p>
    );
  return (
    <p className="text-[13px]">
      {delivered} {delivered === 1 ? 'event' : 'events'} accepted in 7 days
      {waiting > 0 ? `, ${waiting} on their way` : ''}.
    </p>
  );
}

function Tools({ appName, subscription, channels }: Omit<Props, 'admin'>) {
  const { id, pausedAt } = subscription;
  return (
    <div className="mb-3 flex flex-wrap gap-2">
      {pausedAt ? (
        <ActionButton action={pauseAction.bind(null, id, false)}>Resume</ActionButton>
      ) : (
        <ActionButton action={testEventAction.bind(null, id)}>Send a test event</ActionButton>
      )}
      <DialogForm
        open="Change"
        title={`Events for ${appName}`}
        submit="Save"
        action={changeSubscriptionAction.bind(null, id)}
      >
        <SubscriptionFields appName={appName} channels={channels} present={subscription} />
      </DialogForm>
      {subscription.apiVersion !== LATEST_VERSION && (
        <ActionButton
          action={subscriptionVersionAction.bind(null, id, LATEST_VERSION)}
          confirm={{
            title: `Events of version ${LATEST_VERSION}?`,
            consequence: 'They change as the list of versions under Apps, API says.',
            go: 'Take it there',
          }}
        >
          Latest version
        </ActionButton>
      )}
      <OneTimeValue
        open="Replace the secret"
        title="Replace the signing secret"
        submit="Make a new secret"
        action={replaceSecretAction.bind(null, id)}
        value="secret"
        valueLabel="New signing secret"
        direction={`${appName} verifies our events with this`}
        note="Shown this once. For a day every event carries two signatures, one of each secret."
      >
        <p>The present secret goes on working for a day, so that {appName} can change over without losing an event.</p>
      </OneTimeValue>
      <DialogForm
        open="Send again"
        title="Send events again"
        description="In the order in which they happened, with the ids they had, so that an app can tell repeats."
        submit="Send them again"
        action={replayAction.bind(null, id)}
      >
        <SelectField
          name="hours"
          label="Events of the last"
          options={[
            ['1', 'hour'],
            ['6', '6 hours'],
            ['24', 'day'],
            ['72', '3 days'],
            ['168', '7 days'],
          ]}
          initial="24"
        />
        <SelectField
          name="which"
          label="Which of them"
          options={[
            ['not-delivered', 'those given up'],
            ['all', 'all, including those that were accepted'],
          ]}
        />
      </DialogForm>
      {!pausedAt && (
        <ActionButton
          action={pauseAction.bind(null, id, true)}
          confirm={{
            title: 'Pause this subscription?',
            consequence: `${appName} receives no events until it is resumed; what happens meanwhile is kept for it.`,
            go: 'Pause it',
          }}
        >
          Pause
        </ActionButton>
      )}
      <ActionButton
        tone="danger"
        action={endSubscriptionAction.bind(null, id)}
        confirm={{
          title: 'End this subscription?',
          consequence: `${appName} receives no more events at this address. What waits for it stays undelivered.`,
          go: 'End it',
        }}
      >
        End
      </ActionButton>
    </div>
  );
}
