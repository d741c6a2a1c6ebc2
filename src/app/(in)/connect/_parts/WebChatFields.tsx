'use client';

import { useState } from 'react';
import { inkOn, type WebChatSettings } from '../../../../core/connect/webChat';
import { CheckField, SelectField, TextAreaField, TextField } from '../../../../ui/forms/ActionForm';

interface Props {
  initial: Partial<WebChatSettings>;
  textChannels: [string, string][];
}

/** Everything an administrator sets of a web chat. */
export function WebChatFields({ initial, textChannels }: Props) {
  const [colour, setColour] = useState(initial.colour ?? '#2d4961');
  const [picture, setPicture] = useState(initial.picture ?? '');
  const [answers, setAnswers] = useState(initial.answers ?? 'live');
  return (
    <div className="grid max-h-[60vh] gap-4 overflow-y-auto pr-2">
      <TextAreaField
        name="origins"
        label="Allowed websites"
        help="One a line: https:// and the host, without a path. On any other website the chat stays away."
        initial={initial.origins?.join('\n')}
        rows={2}
        exact
      />
      <TextField name="title" label="Title" initial={initial.title} />
      <TextField name="greeting" label="Greeting" initial={initial.greeting} />
      <TextField
        name="returningGreeting"
        label="Greeting of those who return"
        help="Left empty, it is the same."
        initial={initial.returningGreeting}
      />
      <div className="flex flex-wrap items-end gap-4">
        <label className="grid gap-1">
          <span className="font-medium">Colour</span>
          <input
            type="color"
            name="colour"
            value={colour}
            onChange={(event) => setColour(event.target.value)}
            className="h-9 w-16 rounded border border-line-strong bg-panel p-1"
          />
        </label>
        <span className="rounded px-3 py-1.5 text-sm" style={{ background: colour, color: inkOn(colour) }}>
          Ask us
        </span>
        <Picture value={picture} set={setPicture} />
      </div>
      <CheckField name="askName" label="Ask for the name (optional to the visitor)" initial={initial.askName} />
      <CheckField name="askPhone" label="Ask for the phone number" initial={initial.askPhone} />
      <TextAreaField
        name="consentText"
        label="Consent"
        help="Shown with a box to tick; the wording is kept with each visitor as evidence. Left empty, none is asked for."
        initial={initial.consentText}
        rows={2}
      />
      <TextField
        name="acknowledgement"
        label="Acknowledgement"
        help="Shown after a message was taken."
        initial={initial.acknowledgement}
      />
      <fieldset>
        <legend className="mb-1 font-medium">Answers</legend>
        {(
          [
            ['live', 'Live, in the browser'],
            ['later', 'Later, by text to the visitor’s phone'],
          ] as const
        ).map(([value, text]) => (
          <label key={value} className="flex items-center gap-2">
            <input
              type="radio"
              name="answers"
              value={value}
              checked={answers === value}
              onChange={() => setAnswers(value)}
            />
            {text}
          </label>
        ))}
      </fieldset>
      {answers === 'later' && (
        <SelectField
          name="replyChannelId"
          label="Text channel of the answers"
          options={[['', 'choose one'], ...textChannels]}
          initial={initial.replyChannelId}
        />
      )}
    </div>
  );
}

/** The file becomes part of the settings, so that the chat loads nothing else. */
function Picture({ value, set }: { value: string; set: (data: string) => void }) {
  return (
    <div className="grid gap-1">
      <label className="grid gap-1">
        <span className="font-medium">Picture (at most 40 KB)</span>
        <input
          type="file"
          accept="image/png,image/jpeg,image/webp,image/gif"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (!file) return;
            const reader = new FileReader();
            reader.onload = () => set(String(reader.result));
            reader.readAsDataURL(file);
          }}
          className="text-[13px]"
        />
      </label>
      <input type="hidden" name="picture" value={value} />
      {value && (
        <button type="button" className="justify-self-start text-[13px] text-ridge underline" onClick={() => set('')}>
          Leave it out
        </button>
      )}
    </div>
  );
}
