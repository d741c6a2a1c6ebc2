'use client';

import { ActionForm, TextField } from '../../ui/forms/ActionForm';
import { createOwnerAction } from './actions';

export function WelcomeForm() {
  return (
    <ActionForm action={createOwnerAction} submit="Make this account" busy="Making it…">
      <TextField
        name="code"
        label="Code"
        exact
        autoFocus
        help="Printed where Windgap was started. Whoever can read it there owns this installation."
      />
      <TextField name="name" label="Your name" autoComplete="name" />
      <TextField name="email" label="E-mail" type="email" autoComplete="username" />
      <TextField
        name="password"
        label="Password"
        type="password"
        autoComplete="new-password"
        help="At least 15 characters."
      />
    </ActionForm>
  );
}
