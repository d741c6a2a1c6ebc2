'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import type { MailAccountView } from '../../../operations/people';
import { ActionForm, SelectField, TextField } from '../../../ui/forms/ActionForm';
import { BelievedField } from '../../../ui/forms/BelievedField';
import { setMailAction } from './actions';

export function MailForm({ present, mailboxes }: { present?: MailAccountView; mailboxes: [string, string][] }) {
  const router = useRouter();
  const [through, setThrough] = useState(present ? (present.through ?? '') : (mailboxes[0]?.[0] ?? ''));
  const own = present?.through ? undefined : present;
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
      {mailboxes.length > 0 && (
        <SelectField
          name="through"
          label="Leave through"
          help="A mailbox that is connected here, or an account that sends notices alone."
          options={[...mailboxes, ['', 'a mail account of its own']]}
          initial={through}
          onValue={setThrough}
        />
      )}
      {through === '' && (
        <>
          <TextField name="host" label="Mail server" exact initial={own?.host} />
          <TextField name="port" label="Port" exact initial={String(own?.port ?? 587)} />
          <SelectField
            name="security"
            label="Encryption"
            help="Where it is required, neither name nor password is said before the server’s certificate was found right."
            initial={own ? (own.security ?? 'offered') : 'starttls'}
            options={[
              ['starttls', 'STARTTLS, required (port 587)'],
              ['tls', 'TLS from the beginning (port 465)'],
              ['offered', 'STARTTLS where the server offers it'],
              ['none', 'none'],
            ]}
          />
          <TextField name="user" label="User" exact initial={own?.user} />
          <TextField name="password" label="Password" type="password" help="Kept sealed, never shown again." />
          <TextField name="from" label="Sender’s address" exact initial={own?.from} />
          <BelievedField initial={own?.believed} />
        </>
      )}
      <TextField name="trialTo" label="Send the trial to" exact help="The account is saved when the server takes it." />
    </ActionForm>
  );
}
