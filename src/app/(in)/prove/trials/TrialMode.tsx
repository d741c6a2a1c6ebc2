'use client';

import { ActionForm, TextField } from '../../../../ui/forms/ActionForm';
import { changeOnTrialAction } from './actions';

/** Chooses how long what this person changes from now on is on trial. */
export function TrialMode({ minutes }: { minutes: number | undefined }) {
  return (
    <ActionForm action={changeOnTrialAction} submit="Make my changes on trial">
      <TextField label="Minutes" name="minutes" initial={String(minutes ?? 15)} />
      <p className="text-[13px] text-soft">
        {minutes === undefined
          ? 'Your changes are made at once.'
          : `What you change in this browser is on trial for ${minutes} min each; the bar above switches it off.`}
      </p>
    </ActionForm>
  );
}
