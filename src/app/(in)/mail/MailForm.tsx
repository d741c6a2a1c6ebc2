'use client';

import { useRouter } from 'next/navigation';
import { toast } from 'sonner';
import type { MailAccountView } from '../../../operations/people';
import { ActionForm, SelectField, TextField } from '../../../ui/forms/ActionForm';
import { BelievedField } from '../../../ui/forms/BelievedField';
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
      <SelectField
        name="security"
        label="Encryption"
        help="Where it is required, neither name nor password is said before the server’s certificate was found right."
        initial={present ? (present.security ?? 'offered') : 'starttls'}
        options={[
          ['starttls', 'STARTTLS, required (port 587)'],
          ['tls', 'TLS from the beginning (port 465)'],
          ['offered', 'STARTTLS where the server offers it'],
          ['none', 'none'],
        ]}
      />
      <TextField name="user" label="User" exact initial={present?.user} />
      <TextField name="password" label="Password" type="password" help="Kept sealed, never shown again." />
      <TextField name="from" label="Sender’s address" exact initial={present?.from} />
      <BelievedField initial={present?.believed} />
      <TextField name="trialTo" label="Send the trial to" exact help="The account is saved when the server takes it." />
    </ActionForm>
  );
}
