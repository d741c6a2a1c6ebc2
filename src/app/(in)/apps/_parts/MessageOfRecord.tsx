'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { displayAddress } from '../../../../core/addresses/display';
import type { KnownPeople } from '../../../../core/contacts/attributes';
import { type HookDefinition, type HookSender, orderFrom, phoneFields, phoneIn } from '../../../../core/hooks/order';
import { guessMapping, type Mapping, type Source } from '../../../../core/templates/mapping';
import { allVariables } from '../../../../core/templates/template';
import { listFields, type PostedRecord } from '../../../../core/text/fields';
import type { TemplateOffer } from '../../../../operations/templates';
import { FindingLine } from '../../../../ui/domain/Findings';
import { ActionForm, SelectField, TextField } from '../../../../ui/forms/ActionForm';
import type { FormState } from '../../../../ui/forms/formState';
import { MergeTextField } from '../../../../ui/forms/MergeTextField';
import { MappingFields } from './MappingFields';
import { TO_AUDIENCE } from './toAudience';

interface Props {
  present: {
    name: string;
    text: string;
    phoneField: string;
    audienceId?: string | null;
    country: string | null;
    sender: HookSender | null;
    mediaField: string | null;
    tags: string[];
    template: { id: string; mapping: Mapping } | null;
  };
  action: (form: FormData) => Promise<FormState>;
  /** What a record is called here: a post, a row, an event. */
  what: string;
  nameHelp?: string;
  samples: readonly PostedRecord[];
  /** Those whom the samples name. */
  people: KnownPeople;
  templates: readonly TemplateOffer[];
  channels: [string, string][];
  /** Those it may go to instead of the phone a record names. */
  audiences?: [string, string][];
  countries: [string, string][];
  admin: boolean;
}

/** What a record becomes, with the latest one shown as the message it would make while one types. */
export function MessageOfRecord({
  present,
  action,
  what,
  nameHelp,
  samples,
  people,
  templates,
  channels,
  audiences = [],
  countries,
  admin,
}: Props) {
  const [latest] = samples;
  const [text, setText] = useState(present.text);
  const [country, setCountry] = useState(present.country ?? '');
  const guess = latest ? phoneFields(latest, country || undefined)[0] : undefined;
  const [chosenPhone, setPhoneField] = useState(
    present.audienceId ? TO_AUDIENCE + present.audienceId : present.phoneField,
  );
  // Guessed as soon as there is a record to guess from.
  const phoneField = chosenPhone || guess || '';
  const audience = audiences.find(([id]) => phoneField === TO_AUDIENCE + id)?.[1];
  const [sender, setSender] = useState(
    present.sender?.by === 'channel' ? present.sender.channel : (present.sender?.by ?? channels[0]?.[0] ?? ''),
  );
  const [senderField, setSenderField] = useState(present.sender?.by === 'field' ? present.sender.field : '');
  const [mediaField, setMediaField] = useState(present.mediaField ?? '');
  const [templateId, setTemplateId] = useState(present.template?.id ?? '');
  const template = templates.find(({ id }) => id === templateId);
  const [chosenMapping, setMapping] = useState<Record<string, Source>>({ ...present.template?.mapping });
  const mapping = template ? withGuesses(template, chosenMapping, latest) : {};
  const fields = fieldChoices(latest, [audience ? '' : phoneField, senderField, mediaField], what);
  const definition: HookDefinition = {
    text,
    ...(template ? { template: { id: template.id, variants: template.variants, mapping } } : {}),
    phoneField,
    country: country || undefined,
    sender: senderOf(sender, senderField),
    mediaField: mediaField || undefined,
    people,
  };
  const attributesOf = (record: PostedRecord) => {
    const phone = phoneIn(record, phoneField, country || undefined);
    return (phone.ok && people[phone.value]) || {};
  };
  const preview = latest && !audience && (text || template) ? orderFrom(definition, latest) : undefined;
  return (
    <ActionForm
      action={action}
      submit="Save the message"
      onDone={(state) => state.message && toast.success(state.message)}
    >
      <fieldset disabled={!admin} className="contents">
        <TextField name="name" label="Name" initial={present.name} help={nameHelp} />
        {templates.length > 0 && (
          <SelectField
            name="template"
            label="What is sent"
            options={[
              ['', 'the text below'],
              ...templates.map(({ id, name, problem }): [string, string] => [
                id,
                problem ? `template ${name}: cannot be sent yet` : `template ${name}`,
              ]),
            ]}
            initial={templateId}
            onValue={setTemplateId}
          />
        )}
        {template && (
          <MappingFields
            template={template}
            mapping={mapping}
            onMapping={setMapping}
            samples={samples}
            attributesOf={attributesOf}
            what={what}
          />
        )}
        {!template && (
          <MergeTextField
            name="text"
            label="Text"
            help={
              latest
                ? undefined
                : `Fields are written {{ name }}; they can be chosen as soon as the first ${what} is here.`
            }
            value={text}
            onValue={setText}
            sample={latest}
            rendered={preview?.ok ? preview.order.text : undefined}
          />
        )}
        {preview && <Preview preview={preview} what={what} />}
        {audience && (
          <p className="rounded border border-line bg-paper p-3 text-[13px]">
            Each {what} begins a broadcast to the people of {audience}: its fields fill the text, and what it does not
            name is filled with what is known of each of them. It is planned and starts by itself, with the first steps,
            quiet hours and rules of broadcasts.
          </p>
        )}
        <div className="grid gap-4 sm:grid-cols-2">
          {latest ? (
            <SelectField
              name="phoneField"
              label={audiences.length > 0 ? 'Goes to' : 'Field with the phone number'}
              options={[
                ...fields,
                ...audiences.map(([id, name]): [string, string] => [TO_AUDIENCE + id, `the people of ${name}`]),
              ]}
              initial={phoneField}
              onValue={setPhoneField}
            />
          ) : (
            <TextField name="phoneField" label="Field with the phone number" exact initial={phoneField} />
          )}
          {!audience && (
            <SelectField
              name="country"
              label="Numbers without a country code are of"
              options={[['', 'no country: refuse them'], ...countries]}
              initial={country}
              onValue={setCountry}
            />
          )}
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
              initial={present.sender?.by === 'thread' ? present.sender.otherwise : undefined}
            />
          )}
          {!audience && (
            <>
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
                initial={present.tags.join(', ')}
              />
            </>
          )}
        </div>
      </fieldset>
    </ActionForm>
  );
}

/** What nobody has mapped yet is mapped to the field that is called like it. */
function withGuesses(
  template: TemplateOffer,
  chosen: Record<string, Source>,
  latest: PostedRecord | undefined,
): Record<string, Source> {
  const fields = latest ? listFields(latest).map(({ name }) => name) : [];
  const guesses = guessMapping(allVariables(template.variants), fields);
  return { ...Object.fromEntries(Object.entries(guesses).filter(([, { from }]) => from === 'field')), ...chosen };
}

/** What was chosen stays a choice, also when the latest post lacks it. */
function fieldChoices(latest: PostedRecord | undefined, chosen: readonly string[], what: string): [string, string][] {
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
      .map((name): [string, string] => [name, `${name} — not in the latest ${what}`]),
  ];
}

function senderOf(choice: string, field: string): HookSender {
  if (choice === 'field') return { by: 'field', field };
  return choice === 'thread' ? { by: 'thread', otherwise: '' } : { by: 'channel', channel: choice };
}

function Preview({ preview, what }: { preview: ReturnType<typeof orderFrom>; what: string }) {
  return (
    <div className="rounded border border-line bg-paper p-3" data-preview={preview.ok ? 'message' : 'findings'}>
      <p className="mb-1 text-[13px] text-soft">
        {preview.ok
          ? `The latest ${what} would be sent to ${displayAddress(preview.order.to)} as`
          : `The latest ${what} would not be sent`}
      </p>
      {preview.ok ? (
        <p className="whitespace-pre-wrap">{preview.order.text}</p>
      ) : (
        preview.findings.map((finding) => (
          <FindingLine key={`${finding.field} ${finding.problem} ${finding.place?.from}`} finding={finding} />
        ))
      )}
    </div>
  );
}
