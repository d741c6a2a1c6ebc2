'use client';

import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { Button } from '../primitives/Button';
import { CarryValue } from '../primitives/CopyButton';
import { Dialog } from '../primitives/Dialog';
import { ActionForm } from './ActionForm';
import type { FormState } from './formState';

interface Props {
  open: string;
  /** For several of the same buttons on one page. */
  label?: string;
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
  label,
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
  const [problem, setProblem] = useState<string>();
  function change(next: boolean) {
    setOpen(next);
    if (!next) setMade(undefined);
  }
  /** Nothing to show once, nothing to wait for. */
  function done(state: Extract<FormState, { status: 'done' }>) {
    const secret = state.values?.[value];
    setProblem(state.values?.problem);
    if (secret) return setMade(secret);
    setOpen(false);
    if (state.message) toast.success(state.message);
  }
  return (
    <>
      <Button aria-label={label} onClick={() => change(true)}>
        {openLabel}
      </Button>
      <Dialog open={open} onOpenChange={change} title={title}>
        {made ? (
          <div className="grid gap-4">
            {problem && (
              <p role="alert" className="text-clay">
                {problem}
              </p>
            )}
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
