'use client';

import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { showBroadcastAction, startBroadcastAction } from '../actions';

/** Starts it; where its path is not proven it wants a reason. */
export function StartForm({
  id,
  version,
  going,
  cost,
  unproven,
  shown,
  wantsApproval,
}: {
  id: string;
  version: number;
  going: number;
  cost: string;
  unproven?: string;
  shown: boolean;
  wantsApproval: boolean;
}) {
  return (
    <DialogForm
      open={wantsApproval ? 'Ask for approval' : 'Start it'}
      tone="primary"
      title={`${wantsApproval ? 'Ask for approval' : 'Start it'}: ${going.toLocaleString('en')} people`}
      description={`${cost}${shown ? '' : ' Nobody has seen it on a phone yet: send it to yourself first.'}`}
      submit={wantsApproval ? 'Ask' : 'Start'}
      action={startBroadcastAction.bind(null, id, version)}
    >
      {unproven && (
        <TextField
          name="reason"
          label="Reason"
          help={`${unproven} Say why it is started all the same; the audit keeps it.`}
        />
      )}
    </DialogForm>
  );
}

/** Sends it to a phone of our own, as the first recipient would get it. */
export function ShowForm({ id, phones }: { id: string; phones: [string, string][] }) {
  return (
    <DialogForm
      open="Send it to me first"
      title="Send it to me first"
      description="The message of the first recipient, to a phone of your own. It costs a text and counts for nobody."
      submit="Send"
      action={showBroadcastAction.bind(null, id)}
    >
      <SelectField name="to" label="Phone" options={phones} />
    </DialogForm>
  );
}
