'use client';

import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { ActionForm } from '../../../../ui/forms/ActionForm';
import type { FormState } from '../../../../ui/forms/formState';
import { Button } from '../../../../ui/primitives/Button';
import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Dialog } from '../../../../ui/primitives/Dialog';

interface Props {
  open: string;
  title: string;
  submit: string;
  action: (form: FormData) => Promise<FormState>;
  /** The value that is shown once. */
  value: string;
  valueLabel: string;
  direction: string;
  note: string;
  children: ReactNode;
}

/** Makes something with a secret, then shows the secret this one time. */
export function OneTimeValue({
  open: openLabel,
  title,
  submit,
  action,
  value,
  valueLabel,
  direction,
  note,
  children,
}: Props) {
  const [open, setOpen] = useState(false);
  const [made, setMade] = useState<string>();
  function change(next: boolean) {
    setOpen(next);
    if (!next) setMade(undefined);
  }
  /** Nothing to show once, nothing to wait for. */
  function done(state: Extract<FormState, { status: 'done' }>) {
    const secret = state.values?.[value];
    if (secret) return setMade(secret);
    setOpen(false);
    if (state.message) toast.success(state.message);
  }
  return (
    <>
      <Button onClick={() => change(true)}>{openLabel}</Button>
      <Dialog open={open} onOpenChange={change} title={title}>
        {made ? (
          <div className="grid gap-4">
            <CarryValue label={valueLabel} direction={direction} value={made} note={note} />
            <div className="flex justify-end">
              <Button tone="primary" onClick={() => change(false)}>
                I have copied it
              </Button>
            </div>
          </div>
        ) : (
          <ActionForm action={action} submit={submit} onDone={done}>
            {children}
          </ActionForm>
        )}
      </Dialog>
    </>
  );
}
