'use client';

import { useRouter } from 'next/navigation';
import { toast } from 'sonner';
import type { MailAccountView } from '../../../operations/people';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { setMailAction } from './actions';

export function MailForm({ present }: { present?: MailAccountView }) {
  const router = useRouter();
  return (
    <ActionForm
      action={setMailAction}
      submit="Send a trial and save"
      busy="Sending the trial…"
      onDone={(state) => {
        if (state.message) toast.success(state.message);
        router.refresh();
      }}
    >
      <TextField name="host" label="Mail server" exact initial={present?.host} />
      <TextField name="port" label="Port" exact initial={String(present?.port ?? 587)} />
      <TextField name="user" label="User" exact initial={present?.user} />
      <TextField name="password" label="Password" type="password" help="Kept sealed, never shown again." />
      <TextField name="from" label="Sender’s address" exact initial={present?.from} />
      <TextField name="trialTo" label="Send the trial to" exact help="The account is saved when the server takes it." />
    </ActionForm>
  );
}
