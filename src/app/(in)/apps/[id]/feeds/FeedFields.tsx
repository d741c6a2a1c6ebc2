'use client';

import { useState } from 'react';
import { EXAMPLE_EVENT } from '../../../../../core/schedule/exampleEvent';
import { recordOfEvent } from '../../../../../core/schedule/reminders';
import { mergeText } from '../../../../../core/text/merge';
import type { FeedView } from '../../../../../operations/apps/feeds';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { MergeTextField } from '../../../../../ui/forms/MergeTextField';
import { Ticks } from '../../../../../ui/forms/Ticks';

const OFFSETS: [string, string][] = [
  ['10080', 'a week before'],
  ['2880', 'two days before'],
  ['1440', 'a day before'],
  ['120', 'two hours before'],
  ['60', 'an hour before'],
  ['15', 'a quarter of an hour before'],
];

export function FeedFields({
  channels,
  countries,
  zone: ours,
  mailboxes,
  present,
}: {
  channels: [string, string][];
  /** Channels that mail can leave from. */
  mailboxes: [string, string][];
  countries: [string, string][];
  /** Of the organisation. */
  zone: string | undefined;
  present?: FeedView['feed'];
}) {
  const [text, setText] = useState(
    present?.text ??
      'Reminder: {{ event.title }}, {{ event.day }} at {{ event.time }}. Can you come? Answer yes or no.',
  );
  const zone = present?.zone ?? ours ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  const example = recordOfEvent(EXAMPLE_EVENT, 'UTC');
  const { text: rendered, findings } = mergeText(text, example);
  return (
    <>
      <TextField name="name" label="Name" initial={present?.name} help="Which calendar it is, such as “Duty roster”." />
      <TextField
        name="url"
        label="Address of the feed"
        exact
        help={
          present
            ? `Now ${present.shownUrl}; leave empty to keep it.`
            : 'From the calendar’s settings, often called its iCalendar or ICS address. Whoever knows it reads the calendar, so it is kept sealed.'
        }
      />
      <MergeTextField
        name="text"
        label="Text of the reminder"
        value={text}
        onValue={setText}
        sample={example}
        rendered={findings.length === 0 ? rendered : undefined}
      />
      {findings.map((finding) => (
        <FindingLine key={`${finding.code} ${finding.place?.from}`} finding={finding} />
      ))}
      <Ticks legend="Leaves" name="offsets" options={OFFSETS} ticked={(present?.offsets ?? [1440]).map(String)} />
      <div className="grid gap-4 sm:grid-cols-2">
        <SelectField
          name="sender"
          label="From"
          options={channels}
          initial={present?.sender.by === 'channel' ? present.sender.channel : undefined}
        />
        {mailboxes.length > 0 && (
          <SelectField
            name="mailChannel"
            label="Events with an e-mail address alone"
            options={[['', 'nobody is reminded'], ...mailboxes]}
            initial={present?.mailChannel ?? ''}
          />
        )}
        <SelectField
          name="country"
          label="Numbers without a country code are of"
          options={[['', 'no country: do not read them'], ...countries]}
          initial={present?.country ?? ''}
        />
        <TextField name="zone" label="Zone of events that name none" exact initial={zone} />
        <TextField
          name="dayTime"
          label="Reminders of whole days leave at"
          exact
          initial={present?.dayTime ?? '09:00'}
        />
        <SelectField
          name="period"
          label="Read every"
          options={[
            ['5', '5 minutes'],
            ['15', 'quarter of an hour'],
            ['60', 'hour'],
            ['360', '6 hours'],
          ]}
          initial={String(present?.periodMinutes ?? 15)}
        />
        <TextField
          name="notify"
          label="Mail answers to"
          help="E-mail addresses of your people, separated by commas. May stay empty."
          initial={present?.notify.join(', ')}
        />
      </div>
    </>
  );
}
