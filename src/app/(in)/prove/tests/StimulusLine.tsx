'use client';

import type { Stimulus } from '../../../../core/deliveryTest/deliveryTest';
import { Pick, Say } from './parts';
import type { TestChoices } from './testChoices';

const KINDS: [Stimulus['kind'], string][] = [
  ['text', 'a handset writes to a channel'],
  ['order', 'a message is ordered'],
  ['hook', 'a record is posted to a send hook'],
  ['event', 'an event is put into a calendar'],
  ['call', 'a telephone system reports a call'],
];

const first = (options: readonly (readonly [string, string])[]) => options[0]?.[0] ?? '';

export function newStimulus(kind: Stimulus['kind'], choices: TestChoices): Stimulus {
  const phone = first(choices.phones);
  const text = 'Windgap test {{ run }}';
  switch (kind) {
    case 'text':
      return { kind, phone, channel: first(choices.channels), text };
    case 'order':
      return { kind, phone, channel: first(choices.channels), text };
    case 'hook': {
      const hook = first(choices.hooks);
      return { kind, hook, record: choices.samples[hook] ?? '{}' };
    }
    case 'event':
      return { kind, feed: first(choices.feeds), phone, title: text };
    case 'call':
      return { kind, system: first(choices.systems), phone, event: 'missed' };
  }
}

/** What sets the test going, as a sentence. */
export function StimulusLine({
  stimulus,
  choices,
  onChange,
}: {
  stimulus: Stimulus;
  choices: TestChoices;
  onChange: (stimulus: Stimulus) => void;
}) {
  const offered = KINDS.filter(
    ([kind]) =>
      (kind !== 'hook' || choices.hooks.length > 0) &&
      (kind !== 'event' || choices.feeds.length > 0) &&
      (kind !== 'call' || choices.systems.length > 0),
  );
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Pick
        label="Action"
        value={stimulus.kind}
        options={offered}
        onChange={(kind) => onChange(newStimulus(kind as Stimulus['kind'], choices))}
      />
      <span>:</span>
      {stimulus.kind === 'text' && (
        <>
          <Pick
            label="Sender handset"
            value={stimulus.phone}
            options={choices.phones}
            onChange={(phone) => onChange({ ...stimulus, phone })}
          />
          writes
          <Say label="Text of the message" value={stimulus.text} onChange={(text) => onChange({ ...stimulus, text })} />
          to
          <Pick
            label="Channel written to"
            value={stimulus.channel}
            options={choices.channels}
            onChange={(channel) => onChange({ ...stimulus, channel })}
          />
        </>
      )}
      {stimulus.kind === 'order' && (
        <>
          <Pick
            label="Ordered by"
            none="Windgap"
            value={stimulus.app ?? ''}
            options={choices.apps}
            onChange={(app) => onChange({ ...stimulus, app: app || undefined })}
          />
          sends
          <Say label="Text of the message" value={stimulus.text} onChange={(text) => onChange({ ...stimulus, text })} />
          from
          <Pick
            label="Channel sent from"
            value={stimulus.channel}
            options={choices.channels}
            onChange={(channel) => onChange({ ...stimulus, channel })}
          />
          to
          <Pick
            label="Recipient handset"
            value={stimulus.phone}
            options={choices.phones}
            onChange={(phone) => onChange({ ...stimulus, phone })}
          />
        </>
      )}
      {stimulus.kind === 'hook' && (
        <>
          <Pick
            label="Send hook"
            value={stimulus.hook}
            options={choices.hooks}
            onChange={(hook) => onChange({ ...stimulus, hook, record: choices.samples[hook] ?? stimulus.record })}
          />
          gets this record
          <Say
            label="Record, as JSON"
            rows={6}
            value={stimulus.record}
            onChange={(record) => onChange({ ...stimulus, record })}
          />
        </>
      )}
      {stimulus.kind === 'event' && (
        <>
          the bench’s calendar, read by
          <Pick
            label="Calendar feed"
            value={stimulus.feed}
            options={choices.feeds}
            onChange={(feed) => onChange({ ...stimulus, feed })}
          />
          , gets
          <Say
            label="Title of the event"
            value={stimulus.title}
            onChange={(title) => onChange({ ...stimulus, title })}
          />
          for
          <Pick
            label="Whom it is for"
            value={stimulus.phone}
            options={choices.phones}
            onChange={(phone) => onChange({ ...stimulus, phone })}
          />
        </>
      )}
      {stimulus.kind === 'call' && (
        <>
          <Pick
            label="Telephone system"
            value={stimulus.system}
            options={choices.systems}
            onChange={(system) => onChange({ ...stimulus, system })}
          />
          reports
          <Pick
            label="What became of the call"
            value={stimulus.event}
            options={[
              ['missed', 'a missed call'],
              ['incoming', 'an incoming call'],
              ['voicemail-box', 'a call sent to voicemail'],
            ]}
            onChange={(event) => onChange({ ...stimulus, event: event as typeof stimulus.event })}
          />
          from
          <Pick
            label="Caller"
            value={stimulus.phone}
            options={choices.phones}
            onChange={(phone) => onChange({ ...stimulus, phone })}
          />
        </>
      )}
    </div>
  );
}
