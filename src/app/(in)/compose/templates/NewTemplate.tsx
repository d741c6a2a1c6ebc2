'use client';

import { SelectField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import type { ButtonTone } from '../../../../ui/primitives/Button';
import { createTemplateAction } from './actions';

interface Props {
  /** What it may be for, as the form sends it, and in words. */
  purposes: [string, string][];
  /** The template to begin from. */
  from?: { id: string; name: string; purpose: string };
  tone?: ButtonTone;
}

export function NewTemplate({ purposes, from, tone }: Props) {
  return (
    <DialogForm
      open={from ? 'Duplicate' : 'Write a template'}
      tone={tone}
      title={from ? `A copy of ${from.name}` : 'Write a template'}
      submit="Begin"
      action={createTemplateAction.bind(null, from?.id)}
    >
      <SelectField name="for" label="For" options={purposes} initial={from?.purpose} />
      <TextField
        name="name"
        label="Name"
        initial={from ? `${from.name}-2` : ''}
        help="For a chat platform: small letters, digits and hyphens."
        exact
      />
      {!from && (
        <TextField
          name="language"
          label="First language"
          initial="en"
          help="A tag such as en, sv or pt-BR. People whose language has no variant get this one."
          exact
        />
      )}
    </DialogForm>
  );
}
