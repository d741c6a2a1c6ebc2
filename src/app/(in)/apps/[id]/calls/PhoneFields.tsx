'use client';

import { useState } from 'react';
import { CALL_EVENTS } from '../../../../../core/phone/calls';
import { mergeText } from '../../../../../core/text/merge';
import type { PhoneSystemView } from '../../../../../operations/apps/phone';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { MergeTextField } from '../../../../../ui/forms/MergeTextField';
import { Ticks } from '../../../../../ui/forms/Ticks';

const EVENT_WORDS = {
  incoming: 'a call comes in',
  missed: 'a call was missed',
  'voicemail-box': 'a call came to the voicemail box (which does not mean that a message was left)',
};
const EXAMPLE = {
  call: { caller: '+447700900123', called: '+442079460114', what: 'called and was not answered', time: '14:05' },
};

export function PhoneFields({
  channels,
  countries,
  present,
}: {
  channels: [string, string][];
  countries: [string, string][];
  present?: PhoneSystemView['system'];
}) {
  const [answer, setAnswer] = useState(
    present?.answer ?? 'Sorry we missed your call. Text us here what you need and we will answer.',
  );
  const [alert, setAlert] = useState(present?.alert ?? '');
  return (
    <>
      <TextField
        name="name"
        label="Name"
        initial={present?.name}
        help="Which telephone system it is. It stands in the address."
      />
      <Ticks
        legend="When"
        name="events"
        options={CALL_EVENTS.map((event) => [event, EVENT_WORDS[event]])}
        ticked={present?.events ?? ['missed']}
      />
      <Text
        name="answer"
        label="Answer the caller with"
        help="One part at most. Empty for no answer."
        value={answer}
        onValue={setAnswer}
      />
      <Text name="alert" label="Alert your people with" help="Empty for no alert." value={alert} onValue={setAlert} />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          name="alertPhones"
          label="Alert these phones"
          initial={present?.alertPhones.join(', ')}
          help="Separated by commas."
        />
        <TextField
          name="alertMails"
          label="Alert by mail"
          initial={present?.alertMails.join(', ')}
          help="E-mail addresses, separated by commas."
        />
        <SelectField name="channel" label="Texts leave from" options={channels} initial={present?.channelId} />
        <SelectField
          name="country"
          label="Callers without a country code are of"
          options={[['', 'no country'], ...countries]}
          initial={present?.country ?? ''}
        />
        <TextField
          name="zone"
          label="Time zone of the time in a text"
          exact
          initial={present?.zone ?? ''}
          help="Such as Europe/London. Empty for that of the country."
        />
        <SelectField
          name="onceHours"
          label="A caller is answered at most once in"
          options={[
            ['1', 'an hour'],
            ['6', '6 hours'],
            ['24', 'a day'],
            ['168', 'a week'],
          ]}
          initial={String(present?.onceHours ?? 6)}
        />
      </div>
    </>
  );
}

function Text(field: { name: string; label: string; help: string; value: string; onValue: (value: string) => void }) {
  const { text, findings } = mergeText(field.value, EXAMPLE);
  return (
    <div>
      <MergeTextField {...field} sample={EXAMPLE} rendered={findings.length === 0 && text ? text : undefined} />
      {findings.map((finding) => (
        <FindingLine key={`${finding.code} ${finding.place?.from}`} finding={finding} />
      ))}
    </div>
  );
}
