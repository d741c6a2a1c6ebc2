import { countryName } from '../../../../../core/addresses/display';
import type { Registration, RegistrationState } from '../../../../../core/connect/facts';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { registerAction } from '../actions';

interface Props {
  accountId: string;
  countries: readonly string[];
  registrations: readonly Registration[];
  admin: boolean;
}

const WORDS: Record<RegistrationState, string> = {
  none: 'not registered',
  draft: 'begun',
  submitted: 'handed in, waiting for the reviewer',
  approved: 'approved',
  rejected: 'rejected',
};
const STEPS = { brand: 'Brand', use: 'Campaign use' } as const;

/** Countries whose networks take application traffic from registered brands only: first the brand, then its use. */
export function Registrations({ accountId, countries, registrations, admin }: Props) {
  return (
    <Section title="Registration of application traffic" id="registration">
      <Panel className="divide-y divide-line">
        {countries.map((country) => {
          const found = registrations.find((entry) => entry.country === country);
          const state = (step: 'brand' | 'use') => found?.[step] ?? 'none';
          return (
            <div key={country} className="grid gap-3 px-4 py-3 md:grid-cols-[160px_1fr_1fr]">
              <p className="font-medium">{countryName(country)}</p>
              {(['brand', 'use'] as const).map((step) => (
                <div key={step} data-registration={`${country} ${step}`} data-state={state(step)}>
                  <p className="flex items-center gap-2">
                    <ProofMark
                      state={state(step) === 'approved' ? 'proven' : state(step) === 'rejected' ? 'broken' : 'unproven'}
                      label=""
                    />
                    {STEPS[step]}: {WORDS[state(step)]}
                  </p>
                  {state(step) === 'rejected' && found?.reason && (
                    <p className="text-[13px] text-clay">{found.reason}</p>
                  )}
                  {admin && mayHandIn(state, step) && (
                    <div className="mt-1">
                      <DialogForm
                        open={state(step) === 'rejected' ? 'Hand in again' : 'Register'}
                        label={`Register the ${STEPS[step].toLowerCase()} for ${countryName(country)}`}
                        title={`${STEPS[step]} for ${countryName(country)}`}
                        submit="Hand in"
                        action={registerAction.bind(null, accountId, country, step)}
                      >
                        <TextField name="name" label={step === 'brand' ? 'Registered name' : 'Name of the use'} />
                        <TextAreaField
                          name="details"
                          label={step === 'brand' ? 'Organisation' : 'What people will get, with an example'}
                          help={
                            step === 'brand'
                              ? 'Company number, address, website: as in the public register.'
                              : 'Reviewers decline what does not say who gets which texts, and why they agreed.'
                          }
                        />
                      </DialogForm>
                    </div>
                  )}
                </div>
              ))}
            </div>
          );
        })}
      </Panel>
    </Section>
  );
}

function mayHandIn(state: (step: 'brand' | 'use') => RegistrationState, step: 'brand' | 'use'): boolean {
  const open = ['none', 'draft', 'rejected'].includes(state(step));
  return open && (step === 'brand' || state('brand') === 'approved');
}
