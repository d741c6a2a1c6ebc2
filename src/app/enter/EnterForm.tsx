'use client';

import { ActionForm, TextField } from '../../ui/forms/ActionForm';
import { enterAction } from './actions';

export function EnterForm() {
  return (
    <ActionForm
      action={(form) => {
        form.set('code', window.location.hash.slice(1));
        return enterAction(form);
      }}
      submit="Sign in"
      busy="Signing in…"
    >
      <TextField
        name="password"
        label="Password"
        type="password"
        autoComplete="new-password"
        help="At least 15 characters."
        autoFocus
      />
    </ActionForm>
  );
}
