'use client';

import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { Button, type ButtonTone } from '../primitives/Button';
import { Dialog } from '../primitives/Dialog';
import { ActionForm } from './ActionForm';
import type { FormState } from './formState';

interface DialogFormProps {
  open: string;
  tone?: ButtonTone;
  /** For several of the same buttons on one page. */
  label?: string;
  title: string;
  description?: string;
  submit: string;
  busy?: string;
  action: (form: FormData) => Promise<FormState>;
  children?: ReactNode;
}

/** A button that opens a form in a dialog; it closes when the action is done and says so. */
export function DialogForm({
  open: text,
  tone,
  label,
  title,
  description,
  submit,
  busy,
  action,
  children,
}: DialogFormProps) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button tone={tone} aria-label={label} onClick={() => setOpen(true)}>
        {text}
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title={title} description={description}>
        <ActionForm
          action={action}
          submit={submit}
          busy={busy}
          onDone={(state) => {
            setOpen(false);
            if (state.message) toast.success(state.message);
          }}
        >
          {children}
        </ActionForm>
      </Dialog>
    </>
  );
}
