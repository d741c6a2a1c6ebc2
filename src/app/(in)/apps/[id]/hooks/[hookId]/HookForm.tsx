'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { displayAddress } from '../../../../../../core/addresses/display';
import { type HookDefinition, type HookSender, orderFrom, phoneFields } from '../../../../../../core/hooks/order';
import { listFields, type PostedRecord } from '../../../../../../core/text/fields';
import type { HookView } from '../../../../../../operations/hooks';
import { FindingLine } from '../../../../../../ui/domain/Findings';
import { ActionForm, SelectField, TextField } from '../../../../../../ui/forms/ActionForm';
import { MergeTextField } from '../../../../../../ui/forms/MergeTextField';
import { changeHookAction } from '../../../hookActions';

interface Props {
  hook: HookView['hook'];
  samples: readonly PostedRecord[];
  channels: [string, string][];
  countries: [string, string][];
  admin: boolean;
}

/** What a post becomes, with the latest post shown as the message it would make while one types. */
export function HookForm({ hook, samples, channels, countries, admin }: Props) {
  const [latest] = samples;
  const [text, setText] = useState(hook.text);
  const [country, setCountry] = useState(hook.country ?? '');
  const guess = latest ? phoneFields(latest, country || undefined)[0] : undefined;
  const [chosenPhone, setPhoneField] = useState(hook.phone_field);
  // Guessed as soon as there is a post to guess from.
  const phoneField = chosenPhone || guess || '';
  const [sender, setSender] = useState(
    hook.sender?.by === 'channel' ? hook.sender.channel : (hook.sender?.by ?? channels[0]?.[0] ?? ''),
  );
  const [senderField, setSenderField] = useState(hook.sender?.by === 'field' ? hook.sender.field : '');
  const [mediaField, setMediaField] = useState(hook.media_field ?? '');
  const fields = fieldChoices(latest, [phoneField, senderField, mediaField]);
  const definition: HookDefinition = {
    text,
    phoneField,
    country: country || undefined,
    sender: senderOf(sender, senderField),
    mediaField: mediaField || undefined,
  };
  const preview = latest && text ? orderFrom(definition, latest) : undefined;
  return (
    <ActionForm
      action={changeHookAction.bind(null, hook.id)}
      submit="Save the message"
      onDone={(state) => state.message && toast.success(state.message)}
    >
      <fieldset disabled={!admin} className="contents">
        <TextField
          name="name"
          label="Name"
          initial={hook.name}
          help={`The address says “${hook.slug}” and stays as it is.`}
        />
        <MergeTextField
          name="text"
          label="Text"
          help={
            latest ? undefined : 'Fields are written {{ name }}; they can be chosen as soon as the first post is here.'
          }
          value={text}
          onValue={setText}
          sample={latest}
          rendered={preview?.ok ? preview.order.text : undefined}
        />
        {preview && <Preview preview={preview} />}
        <div className="grid gap-4 sm:grid-cols-2">
          {latest ? (
            <SelectField
              name="phoneField"
              label="Field with the phone number"
              options={fields}
              initial={phoneField}
              onValue={setPhoneField}
            />
          ) : (
            <TextField name="phoneField" label="Field with the phone number" exact initial={phoneField} />
          )}
          <SelectField
            name="country"
            label="Numbers without a country code are of"
            options={[['', 'no country: refuse them'], ...countries]}
            initial={country}
            onValue={setCountry}
          />
          <SelectField
            name="sender"
            label="Leaves from"
            options={[
              ...channels,
              ['field', 'the number a field of the record names'],
              ['thread', 'the number the person last wrote with'],
            ]}
            initial={sender}
            onValue={setSender}
          />
          {sender === 'field' && (
            <SelectField
              name="senderField"
              label="Field that names the sender"
              help="It holds the number or the name of a channel, such as that of the record’s owner."
              options={fields}
              initial={senderField}
              onValue={setSenderField}
            />
          )}
          {sender === 'thread' && (
            <SelectField
              name="otherwise"
              label="For people who never wrote"
              options={channels}
              initial={hook.sender?.by === 'thread' ? hook.sender.otherwise : undefined}
            />
          )}
          <SelectField
            name="mediaField"
            label="Field with the address of a file"
            options={[['', 'no file'], ...fields.slice(1)]}
            initial={mediaField}
            onValue={setMediaField}
          />
          <TextField
            name="tags"
            label="Tags"
            help="Separated by commas; messages are found by them."
            initial={hook.tags.join(', ')}
          />
        </div>
      </fieldset>
    </ActionForm>
  );
}

/** What was chosen stays a choice, also when the latest post lacks it. */
function fieldChoices(latest: PostedRecord | undefined, chosen: readonly string[]): [string, string][] {
  const known = latest ? listFields(latest) : [];
  const names = new Set(known.map(({ name }) => name));
  return [
    ['', 'choose a field'],
    ...known.map(({ name, value }): [string, string] => [
      name,
      value ? `${name} — ${value.slice(0, 30)}` : `${name} — empty`,
    ]),
    ...[...new Set(chosen)]
      .filter((name) => name && !names.has(name))
      .map((name): [string, string] => [name, `${name} — not in the latest post`]),
  ];
}

function senderOf(choice: string, field: string): HookSender {
  if (choice === 'field') return { by: 'field', field };
  return choice === 'thread' ? { by: 'thread', otherwise: '' } : { by: 'channel', channel: choice };
}

function Preview({ preview }: { preview: ReturnType<typeof orderFrom> }) {
  return (
    <div className="rounded border border-line bg-paper p-3" data-preview={preview.ok ? 'message' : 'findings'}>
      <p className="mb-1 text-[13px] text-soft">
        {preview.ok
          ? `The latest post would be sent to ${displayAddress(preview.order.to)} as`
          : 'The latest post would not be sent'}
      </p>
      {preview.ok ? (
        <p className="whitespace-pre-wrap">{preview.order.text}</p>
      ) : (
        preview.findings.map((finding) => (
          <FindingLine key={`${finding.field} ${finding.code} ${finding.place?.from}`} finding={finding} />
        ))
      )}
    </div>
  );
}
