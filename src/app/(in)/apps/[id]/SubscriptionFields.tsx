import type { SubscriptionView } from '../../../../operations/apps';
import { EVENT_TYPES, MESSAGE_EVENTS, TOLD_STATES } from '../../../../operations/apps/webhooks';
import { stateWord } from '../../../../ui/domain/Cairn';
import { CheckField, TextField } from '../../../../ui/forms/ActionForm';
import { Ticks } from '../../../../ui/forms/Ticks';

const EVENT_WORDS: Record<(typeof EVENT_TYPES)[number], string> = {
  'windgap.message.received': 'a message came in (and was routed to the app)',
  'windgap.message.state': 'what became of a message that went out',
  'windgap.broadcast.started': 'a broadcast of the app began to leave',
  'windgap.broadcast.held': 'a broadcast of the app was held, with the reason',
  'windgap.broadcast.finished': 'a broadcast of the app is over',
  'windgap.alert.began': 'an alert began that a rule tells the app of',
  'windgap.alert.escalated': 'nobody has taken an alert',
  'windgap.alert.ended': 'an alert ended that the app was told of',
};

interface Props {
  appName: string;
  channels: [string, string][];
  present?: Pick<SubscriptionView, 'url' | 'events' | 'filter'>;
}

/** Where events go, and which. What is not narrowed goes whole. */
export function SubscriptionFields({ appName, channels, present }: Props) {
  return (
    <>
      <TextField
        name="url"
        label={`Address at ${appName}`}
        help={`Windgap calls this; ${appName} owns it.`}
        initial={present?.url}
        exact
      />
      <Ticks
        legend="Events (samples and shapes are under Apps, API)"
        name="events"
        options={EVENT_TYPES.map((type) => [type, EVENT_WORDS[type]])}
        ticked={present?.events ?? [...MESSAGE_EVENTS]}
      />
      <CheckField
        name="allApps"
        label="What becomes of messages that others sent, too"
        initial={present?.filter.allApps === true}
        help={`Without it ${appName} is told what became of its own.`}
      />
      <details open={Boolean(present?.filter.states || present?.filter.channels)}>
        <summary className="cursor-pointer text-[13px] text-soft">Only some of them</summary>
        <div className="mt-2 grid gap-3 sm:grid-cols-2">
          <Ticks
            legend="Only when it became"
            name="states"
            options={TOLD_STATES.map((state) => [state, stateWord(state)])}
            ticked={present?.filter.states ?? []}
          />
          <Ticks
            legend="Only of these channels"
            name="channels"
            options={channels}
            ticked={present?.filter.channels ?? []}
          />
        </div>
      </details>
    </>
  );
}
