'use client';

import { useTransition } from 'react';
import { toast } from 'sonner';
import { TextField } from '../forms/ActionForm';
import { DialogForm } from '../forms/DialogForm';
import type { FormState } from '../forms/formState';
import { throughAsking } from '../forms/throughAsking';
import { Button } from '../primitives/Button';

/** Something that is done to all rows that are selected. */
export interface BulkAction {
  label: string;
  /** Asked for before it is done. */
  ask?: { name: string; label: string };
  action: (ids: string[], form: FormData) => Promise<FormState>;
}

export function Bulk({ ids, actions, onDone }: { ids: string[]; actions: readonly BulkAction[]; onDone: () => void }) {
  const [busy, start] = useTransition();

  // What was selected is gone from here when it is done, and the dialog with it.
  async function perform({ action }: BulkAction, form: FormData): Promise<FormState> {
    const state = await throughAsking(() => action(ids, form));
    if (state.status === 'done') {
      if (state.message) toast.success(state.message);
      onDone();
    }
    return state;
  }

  function go(action: BulkAction) {
    start(async () => {
      const state = await perform(action, new FormData());
      if (state.status === 'refused') toast.error(state.message, { description: state.findings[0]?.finding.remedy });
    });
  }

  return (
    <div className="sticky bottom-3 z-10 mt-3 flex w-fit flex-wrap items-center gap-3 rounded-md border border-line-strong bg-panel px-4 py-2 text-[13px] shadow-overlay">
      <span role="status">{ids.length} selected</span>
      {actions.map((each) =>
        each.ask ? (
          <DialogForm
            key={each.label}
            open={each.label}
            title={`${each.label}: ${ids.length} selected`}
            submit={each.label}
            action={(form) => perform(each, form)}
          >
            <TextField name={each.ask.name} label={each.ask.label} />
          </DialogForm>
        ) : (
          <Button key={each.label} disabled={busy} onClick={() => go(each)}>
            {each.label}
          </Button>
        ),
      )}
      <Button tone="quiet" onClick={onDone}>
        Clear
      </Button>
    </div>
  );
}
