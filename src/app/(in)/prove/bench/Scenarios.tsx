'use client';

import { ActionButton } from '../../../../ui/forms/ActionButton';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Section } from '../../../../ui/primitives/layout';
import { applyScenarioAction, keepScenarioAction, removeScenarioAction } from './actions';

/** What the bench was set to, kept under a name. */
export function Scenarios({ scenarios }: { scenarios: { id: string; name: string; what: string }[] }) {
  return (
    <Section
      title="Scenarios"
      id="scenarios"
      aside={
        <DialogForm
          open="Save as a scenario"
          tone="quiet"
          title="Save the present faults as a scenario"
          description="The faults that are on and the handsets that are off or slow."
          submit="Save"
          action={keepScenarioAction}
        >
          <TextField name="name" label="Name" />
        </DialogForm>
      }
    >
      <ul className="grid gap-1">
        <li>
          <ActionButton action={applyScenarioAction.bind(null, undefined)}>All clear</ActionButton>
        </li>
        {scenarios.map(({ id, name, what }) => (
          <li key={id} className="flex flex-wrap items-center justify-between gap-2">
            <span>
              {name} <span className="text-[13px] text-soft">{what}</span>
            </span>
            <span className="flex">
              <ActionButton tone="quiet" action={applyScenarioAction.bind(null, id)}>
                Apply
              </ActionButton>
              <ActionButton tone="quiet" action={removeScenarioAction.bind(null, id)}>
                Remove
              </ActionButton>
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
