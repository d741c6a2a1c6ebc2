'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { ActionForm, SelectField, TextField } from '../../../ui/forms/ActionForm';
import { Button } from '../../../ui/primitives/Button';
import { Dialog } from '../../../ui/primitives/Dialog';
import { addPersonAction } from './actions';

export function AddPerson() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button tone="primary" onClick={() => setOpen(true)}>
        Add a person
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title="Add a person">
        <ActionForm
          action={addPersonAction}
          submit="Add"
          onDone={(state) => {
            setOpen(false);
            toast.success(state.message);
          }}
        >
          <TextField name="name" label="Name" />
          <TextField name="email" label="E-mail" type="email" />
          <SelectField
            name="role"
            label="Role"
            initial="agent"
            options={[
              ['administrator', 'Administrator: everything but people'],
              ['agent', 'Agent: conversations'],
              ['viewer', 'Viewer: reads'],
              ['owner', 'Owner: everything'],
            ]}
          />
          <TextField
            name="password"
            label="First password"
            type="password"
            autoComplete="new-password"
            help="At least 12 characters. Hand it over yourself."
          />
        </ActionForm>
      </Dialog>
    </>
  );
}
