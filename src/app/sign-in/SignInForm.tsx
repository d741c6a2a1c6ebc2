'use client';

import { ActionForm, TextField } from '../../ui/forms/ActionForm';
import { signInAction } from './actions';

export function SignInForm() {
  return (
    <ActionForm action={signInAction} submit="Sign in" busy="Signing in…">
      <TextField name="email" label="E-mail" type="email" autoComplete="username" autoFocus />
      <TextField name="password" label="Password" type="password" autoComplete="current-password" />
    </ActionForm>
  );
}
