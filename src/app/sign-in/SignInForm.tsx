'use client';

import { ActionForm, TextField } from '../../ui/forms/ActionForm';
import { ShowPasskey } from '../../ui/identity/passkeys';
import { Link } from '../../ui/primitives/Link';
import { askPasskeyAction, passkeySignInAction, signInAction } from './actions';

interface Props {
  /** Where they were going. */
  next: string;
  /** Passkeys count at this address. */
  passkeys: boolean;
  provider?: { name: string; only: boolean };
}

export function SignInForm({ next, passkeys, provider }: Props) {
  return (
    <div className="grid gap-4">
      {provider && (
        <Link
          href={`/sign-in/provider?${new URLSearchParams({ next })}`}
          prefetch={false}
          className="plain block rounded border border-line-strong px-3 py-1.5 text-center font-medium hover:bg-wash"
        >
          Sign in through {provider.name}
        </Link>
      )}
      {provider?.only && <p className="text-[13px] text-soft">Passwords are for owners alone.</p>}
      <ActionForm
        action={(form) => {
          form.set('next', next);
          return signInAction(form);
        }}
        submit="Sign in"
        busy="Signing in…"
      >
        <TextField name="email" label="E-mail" type="email" autoComplete="username" autoFocus />
        <TextField name="password" label="Password" type="password" autoComplete="current-password" />
      </ActionForm>
      <p className="text-[13px]">
        <Link href="/sign-in/lost">I lost my password</Link>
      </p>
      {passkeys && (
        <ShowPasskey
          ask={askPasskeyAction}
          show={(token, answer) => passkeySignInAction(token, answer, next)}
          words="Sign in with a passkey"
        />
      )}
    </div>
  );
}
