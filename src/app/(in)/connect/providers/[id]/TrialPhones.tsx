'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { displayAddress } from '../../../../../core/addresses/display';
import { ActionForm, TextField } from '../../../../../ui/forms/ActionForm';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { confirmPhoneAction, startPhoneAction } from '../actions';

interface Props {
  account: { id: string; facts: { verifiedPhones?: string[] } };
  connector: string;
  admin: boolean;
}

/** A trial account reaches verified phones only; one is verified by the code the provider texts to it. */
export function TrialPhones({ account, connector, admin }: Props) {
  const [phone, setPhone] = useState<string>();
  const verified = account.facts.verifiedPhones ?? [];
  return (
    <Section title="Phones this trial account reaches" id="trial">
      <Panel className="grid gap-4 p-4 lg:grid-cols-2">
        <div>
          {verified.length === 0 ? (
            <p>None yet: until a phone is verified, nobody gets anything.</p>
          ) : (
            <ul className="font-mono">
              {verified.map((entry) => (
                <li key={entry}>{displayAddress(entry)}</li>
              ))}
            </ul>
          )}
        </div>
        {admin &&
          (phone ? (
            <ActionForm
              key="code"
              action={confirmPhoneAction.bind(null, account.id, phone)}
              submit="Confirm"
              onDone={(state) => {
                setPhone(undefined);
                toast.success(state.message);
              }}
            >
              <TextField name="code" label={`Code that came to ${displayAddress(phone)}`} exact autoFocus />
            </ActionForm>
          ) : (
            <ActionForm
              key="phone"
              action={startPhoneAction.bind(null, account.id)}
              submit="Send a code"
              busy={`Asking ${connector}…`}
              onDone={(state) => setPhone(state.values?.phone)}
            >
              <TextField name="phone" label="Phone" help="With its country code." exact />
            </ActionForm>
          ))}
      </Panel>
    </Section>
  );
}
