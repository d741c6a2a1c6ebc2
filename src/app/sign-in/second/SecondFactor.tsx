'use client';

import { useState } from 'react';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { ShowPasskey } from '../../../ui/identity/passkeys';
import { askSecondPasskeyAction, codeAction, secondPasskeyAction } from './actions';

interface Props {
  passkeys: boolean;
  timeCodes: boolean;
  recoveryCodes: boolean;
}

/** The ways in which somebody shows their second factor. */
export function SecondFactor({ passkeys, timeCodes, recoveryCodes }: Props) {
  const [lost, setLost] = useState(!passkeys && !timeCodes);
  return (
    <div className="grid gap-4">
      {passkeys && !lost && (
        <ShowPasskey ask={askSecondPasskeyAction} show={secondPasskeyAction} words="Show the passkey" />
      )}
      {timeCodes && !lost && (
        <ActionForm action={(form) => codeAction('code', form)} submit="Sign in" busy="Signing in…">
          <TextField
            name="code"
            label="One-time code"
            exact
            autoComplete="one-time-code"
            autoFocus={!passkeys}
            help="The six figures your program shows now."
          />
        </ActionForm>
      )}
      {lost && (
        <ActionForm action={(form) => codeAction('recovery code', form)} submit="Sign in" busy="Signing in…">
          <TextField
            name="code"
            label="Recovery code"
            exact
            autoFocus
            help="One of those you kept. Each opens once. Without any an owner can take the second factor away."
          />
        </ActionForm>
      )}
      {recoveryCodes && (passkeys || timeCodes) && (
        <button
          type="button"
          className="justify-self-start text-[13px] text-soft underline underline-offset-4"
          onClick={() => setLost(!lost)}
        >
          {lost ? 'I have my device' : 'I do not have my device'}
        </button>
      )}
    </div>
  );
}
