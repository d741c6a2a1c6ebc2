'use client';

import { toast } from 'sonner';
import { CONSENT_WAYS, WAY_WORDS } from '../../../../../../core/consent/ways';
import type { ColumnUse, ImportPlan } from '../../../../../../core/contacts/importing';
import { ActionForm, SelectField, TextField } from '../../../../../../ui/forms/ActionForm';
import { Panel } from '../../../../../../ui/primitives/layout';
import { planImportAction } from '../../actions';

interface Props {
  id: string;
  plan: ImportPlan;
  samples: readonly Record<string, string>[];
  countries: [string, string][];
}

const USES: Exclude<ColumnUse, { attribute: string }>[] = [
  'phone',
  'name',
  'first name',
  'last name',
  'language',
  'zone',
  'tags',
  'ignore',
];

/** What each column holds, with what stands in it; and what these people agreed to, which must be shown. */
export function PlanForm({ id, plan, samples, countries }: Props) {
  const headers = Object.keys(plan.columns);
  return (
    <Panel className="p-4">
      <ActionForm
        action={planImportAction.bind(null, id, headers)}
        submit="Examine again"
        onDone={(state) => state.message && toast.success(state.message)}
      >
        <div className="grid gap-2">
          {headers.map((header, index) => {
            const use = plan.columns[header];
            return (
              <div
                key={header}
                className="grid items-baseline gap-x-4 sm:grid-cols-[minmax(0,1fr)_12rem_minmax(0,1.6fr)]"
              >
                <label htmlFor={`column-${index}`} className="truncate font-mono text-[13px]">
                  {header}
                </label>
                <select
                  id={`column-${index}`}
                  name={`column-${index}`}
                  defaultValue={typeof use === 'object' ? 'attribute' : use}
                  className="rounded border border-line-strong bg-panel px-2 py-1 text-[13px]"
                >
                  {USES.map((each) => (
                    <option key={each} value={each}>
                      {each === 'zone' ? 'time zone' : each === 'ignore' ? 'nothing we keep' : each}
                    </option>
                  ))}
                  <option value="attribute">an attribute: {header.trim().toLowerCase()}</option>
                </select>
                <span className="truncate text-[13px] text-soft">
                  {samples
                    .map((sample) => sample[header])
                    .filter(Boolean)
                    .slice(0, 3)
                    .join(' · ')}
                </span>
              </div>
            );
          })}
        </div>
        <div className="grid gap-4 sm:grid-cols-2">
          <SelectField
            name="country"
            label="Numbers without a country code are of"
            options={[['', 'no country: refuse them'], ...countries]}
            initial={plan.country ?? ''}
          />
          <TextField name="tags" label="Tags for all of them" initial={plan.tags.join(', ')} />
        </div>
        <fieldset className="grid gap-2">
          <legend className="mb-1 font-medium">They opted in to</legend>
          <div className="flex flex-wrap gap-4">
            {CONSENT_WAYS.filter((way) => way !== 'web').map((way) => (
              <label key={way} className="flex items-center gap-2">
                <input type="checkbox" name="ways" value={way} defaultChecked={plan.consent?.ways.includes(way)} />
                {WAY_WORDS[way]}
              </label>
            ))}
          </div>
          <TextField
            name="source"
            label="Evidence of the opt-in"
            initial={plan.consent?.source ?? ''}
            help="Such as “signed forms, spring 2026”. Who opted out before stays opted out, whatever a file says."
          />
        </fieldset>
      </ActionForm>
    </Panel>
  );
}
