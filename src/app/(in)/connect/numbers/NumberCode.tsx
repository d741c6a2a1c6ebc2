'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { displayAddress } from '../../../../core/addresses/display';
import { ActionForm, TextField } from '../../../../ui/forms/ActionForm';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Dialog } from '../../../../ui/primitives/Dialog';
import { confirmNumberAction, startNumberAction } from './actions';

interface Props {
  accountId: string;
  remoteId: string;
  address: string;
}

/** A number that the platform has to see proven: ask for a code, then enter what came to it. */
export function NumberCode({ accountId, remoteId, address }: Props) {
  const [asked, setAsked] = useState(false);
  const [waiting, setWaiting] = useState(false);
  async function ask() {
    setWaiting(true);
    const answer = await throughAsking(() => startNumberAction(accountId, remoteId));
    setWaiting(false);
    if (answer.status === 'refused') toast.error(answer.message, { description: answer.findings[0]?.finding.remedy });
    else setAsked(true);
  }
  return (
    <>
      <Button
        className="ml-2"
        disabled={waiting}
        onClick={ask}
        aria-label={`Ask for a code to ${displayAddress(address)}`}
      >
        {waiting ? 'Asking…' : 'Ask for a code'}
      </Button>
      <Dialog open={asked} onOpenChange={setAsked} title={`The code that came to ${displayAddress(address)}`}>
        <ActionForm
          action={confirmNumberAction.bind(null, accountId, remoteId)}
          submit="Confirm"
          onDone={(state) => {
            setAsked(false);
            toast.success(state.message);
          }}
        >
          <TextField name="code" label="Code" exact autoFocus />
        </ActionForm>
      </Dialog>
    </>
  );
}
