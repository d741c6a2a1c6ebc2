'use client';

import { toast } from 'sonner';
import type { BenchState } from '../../../../operations/bench';
import { ActionForm, TextField } from '../../../../ui/forms/ActionForm';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { reviewerAction } from './actions';

/** How fast Tarrow's reviewer works. It judges by rules of its own, which are not shown. */
export function ReviewerDesk({ reviewer, changed }: { reviewer: BenchState['reviewer']; changed: () => void }) {
  return (
    <Section title="Tarrow’s reviewer" id="reviewer">
      <Panel className="p-3">
        <ActionForm
          action={reviewerAction}
          submit="Set"
          onDone={(state) => {
            if (state.message) toast.success(state.message);
            changed();
          }}
        >
          <TextField name="seconds" label="Seconds a review takes" initial={String(reviewer.reviewMs / 1000)} exact />
          <TextField name="perHour" label="Submissions taken an hour" initial={String(reviewer.perHour)} exact />
        </ActionForm>
      </Panel>
    </Section>
  );
}
