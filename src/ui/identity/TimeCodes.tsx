'use client';

import { useRouter } from 'next/navigation';
import { useState, useTransition } from 'react';
import { ActionForm, TextField } from '../forms/ActionForm';
import type { FormState } from '../forms/formState';
import { throughAsking } from '../forms/throughAsking';
import { Button } from '../primitives/Button';
import { CopyButton } from '../primitives/CopyButton';
import { SquareCode, type Squares } from '../primitives/SquareCode';

export interface TimeCodesOffered {
  token: string;
  secret: string;
  /** The address for authenticator programs as a square code. */
  picture: Squares;
}

interface Props {
  offer: () => Promise<TimeCodesOffered>;
  keep: (token: string, form: FormData) => Promise<FormState>;
}

/** Sets up one-time codes: a picture for the program that makes them, and the first code as the proof that it does. */
export function TimeCodes({ offer, keep }: Props) {
  const router = useRouter();
  const [offered, setOffered] = useState<TimeCodesOffered>();
  const [waiting, start] = useTransition();
  if (!offered)
    return (
      <Button disabled={waiting} onClick={() => start(async () => setOffered(await throughAsking(offer)))}>
        Set up one-time codes
      </Button>
    );
  return (
    <div className="grid gap-3">
      <p>Scan this with the program that makes one-time codes, then type the code it shows.</p>
      <SquareCode
        code={offered.picture}
        label="The secret of the one-time codes as a square code"
        className="size-44 rounded-sm border border-line"
      />
      <p className="text-[13px]">
        Or type this secret there: <code className="break-all font-mono">{offered.secret}</code>{' '}
        <CopyButton value={offered.secret} what="the secret" />
      </p>
      <ActionForm
        action={(form) => keep(offered.token, form)}
        submit="Use these codes"
        onDone={() => {
          setOffered(undefined);
          router.refresh();
        }}
      >
        <TextField name="code" label="Code of now" exact autoComplete="one-time-code" />
      </ActionForm>
    </div>
  );
}
