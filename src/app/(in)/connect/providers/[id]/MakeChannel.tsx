'use client';

import { useState } from 'react';
import { ActionForm, TextField } from '../../../../../ui/forms/ActionForm';
import { Button } from '../../../../../ui/primitives/Button';
import { Dialog } from '../../../../../ui/primitives/Dialog';
import { openChannelAction } from '../actions';

export function MakeChannel({ numberId, address }: { numberId: string; address: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)} aria-label={`Make ${address} a channel`}>
        Make a channel
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title={`A channel on ${address}`}>
        <ActionForm action={openChannelAction.bind(null, numberId)} submit="Make the channel">
          <TextField
            name="name"
            label="Channel name"
            help="The desk or purpose it serves. It becomes part of the inbound URL, so that a pasted one can be recognised."
          />
        </ActionForm>
      </Dialog>
    </>
  );
}
