'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { asDraft, render, renderPlain } from '../../../../../core/templates/render';
import { variablesOf } from '../../../../../core/templates/template';
import type { AnswerOffer } from '../../../../../operations/conversations';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { sendTemplateAction } from './actions';

const INPUT = 'rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';

/** Puts a reply that is written already into the box, filled with what is known of the contact. */
export function ReplyChoice({ offers, onText }: { offers: readonly AnswerOffer[]; onText: (text: string) => void }) {
  const texts = offers.filter(({ kind }) => kind === 'text');
  if (texts.length === 0) return null;
  return (
    <select
      aria-label="Saved replies"
      className={INPUT}
      value=""
      onChange={(event) => {
        const offer = texts.find(({ id }) => id === event.target.value);
        if (!offer) return;
        const { findings } = renderPlain(offer.variant, offer.values, { mail: false });
        onText(asDraft(offer.variant, offer.values));
        if (findings.length > 0)
          toast(`Not known of this contact: ${findings.map(({ variable }) => variable).join(', ')}`, {
            description: 'Write it in where it stands in braces; it is not sent so.',
          });
      }}
    >
      <option value="">Saved replies…</option>
      {texts.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

interface Target {
  to: string;
  from: string;
}

/** Sends what the platform approved, which may be done whether or not the person wrote lately. */
export function TemplateChoice({ offers, target }: { offers: readonly AnswerOffer[]; target: Target }) {
  const templates = offers.filter(({ kind }) => kind === 'template');
  const [id, setId] = useState(templates[0]?.id ?? '');
  const offer = templates.find((each) => each.id === id);
  const [written, setWritten] = useState<Record<string, string>>({});
  if (templates.length === 0 || !offer) return null;
  const variables = variablesOf(offer.variant);
  const values = Object.fromEntries(
    variables.map((name) => [name, written[`${id} ${name}`] ?? offer.values[name] ?? '']),
  );
  const { text, findings } = render(offer.variant, values);
  return (
    <DialogForm
      open="Send a template"
      title="Send a template"
      submit="Send it"
      busy="Sending…"
      action={sendTemplateAction.bind(null, { ...target, id, language: offer.variant.language, values })}
    >
      <label className="grid gap-1 font-medium">
        Template
        <select className={INPUT} value={id} onChange={(event) => setId(event.target.value)}>
          {templates.map(({ id: each, name, variant }) => (
            <option key={each} value={each}>
              {name} ({variant.language})
            </option>
          ))}
        </select>
      </label>
      {variables.map((name) => (
        <label key={name} className="grid grid-cols-[10rem_1fr] items-center gap-3">
          <span className="font-mono text-[13px]">{name}</span>
          <input
            className={INPUT}
            value={values[name]}
            onChange={(event) => setWritten({ ...written, [`${id} ${name}`]: event.target.value })}
          />
        </label>
      ))}
      <p className="rounded border border-line bg-paper p-3 whitespace-pre-wrap" data-template-preview>
        {text}
      </p>
      {findings.length > 0 && (
        <p className="text-[13px] text-ochre-ink">
          ▲ Still empty: {findings.map(({ variable }) => variable).join(', ')}.
        </p>
      )}
    </DialogForm>
  );
}
