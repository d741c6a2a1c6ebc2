'use client';

import { useState } from 'react';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { Button } from '../../../ui/primitives/Button';
import { Dialog } from '../../../ui/primitives/Dialog';
import { addAppAction } from './actions';

export function AddApp() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button tone="primary" onClick={() => setOpen(true)}>
        Add an app
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title="Add an app">
        <ActionForm action={addAppAction} submit="Add it">
          <TextField name="name" label="Name" help="As colleagues know it." />
          <TextField name="description" label="What it is" />
        </ActionForm>
      </Dialog>
    </>
  );
}
