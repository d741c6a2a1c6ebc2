'use client';

import { ActionForm, TextField } from '../../../../ui/forms/ActionForm';
import { changeOnTrialAction } from './actions';

/** Chooses how long what this person changes from now on is on trial. */
export function TrialMode({ minutes }: { minutes: number | undefined }) {
  return (
    <ActionForm
      action={changeOnTrialAction}
      submit={minutes === undefined ? 'Turn on trial mode' : 'Change the minutes'}
    >
      <TextField label="Minutes until a change is reverted" name="minutes" initial={String(minutes ?? 15)} />
      <p className="text-[13px] text-soft">
        {minutes === undefined
          ? 'Trial mode is off: your changes take effect for good.'
          : `What you change in this browser is on trial for ${minutes} min each; the bar above switches it off.`}
      </p>
    </ActionForm>
  );
}
