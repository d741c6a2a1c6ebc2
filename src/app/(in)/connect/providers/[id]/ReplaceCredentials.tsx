'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { ActionForm, SelectField } from '../../../../../ui/forms/ActionForm';
import { CredentialFields } from '../../../../../ui/forms/CredentialFields';
import { Button } from '../../../../../ui/primitives/Button';
import { Dialog } from '../../../../../ui/primitives/Dialog';
import { replaceCredentialsAction } from '../actions';

interface Props {
  accountId: string;
  fields: { name: string; label: string; help: string; secret: boolean; value: string }[];
}

export function ReplaceCredentials({ accountId, fields }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Replace credentials</Button>
      <Dialog
        open={open}
        onOpenChange={setOpen}
        title="Replace credentials"
        description="The present ones stay in force until the provider accepts the new ones. Afterwards every hop of the account’s channels is unproven until traffic proves it again."
      >
        <ActionForm
          action={replaceCredentialsAction.bind(null, accountId)}
          submit="Check and replace"
          busy="Asking…"
          onDone={(state) => {
            setOpen(false);
            toast.success(state.message);
          }}
        >
          <CredentialFields fields={fields.map((field) => ({ ...field, initial: field.value }))} />
          <SelectField
            name="overlapHours"
            label="The former ones still count for what comes in"
            help="For providers that go on signing with the old secret for a while, so that nothing is refused meanwhile."
            initial="0"
            options={[
              ['0', 'no longer'],
              ['1', 'for an hour'],
              ['24', 'for a day'],
              ['72', 'for three days'],
            ]}
          />
        </ActionForm>
      </Dialog>
    </>
  );
}
