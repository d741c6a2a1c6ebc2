'use client';

import { useState } from 'react';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { askForLinkAction } from '../actions';

export function LostForm() {
  const [asked, setAsked] = useState(false);
  if (asked) return <p role="status">If somebody has this e-mail here, a link is on its way.</p>;
  return (
    <ActionForm action={askForLinkAction} submit="Mail me a link" busy="Asking…" onDone={() => setAsked(true)}>
      <TextField name="email" label="E-mail" type="email" autoComplete="username" autoFocus />
    </ActionForm>
  );
}
