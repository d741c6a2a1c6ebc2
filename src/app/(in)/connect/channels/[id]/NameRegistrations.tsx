import { countryName } from '../../../../../core/addresses/display';
import { NAME_REGISTRATION_WORDS, type NameRegistrationView } from '../../../../../operations/channels';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';
import { nameRegistrationAction } from '../actions';

const MARKS = { submitted: 'unproven', approved: 'proven', rejected: 'broken' } as const;

/** Countries that carry a sender name once it is registered, and where that stands. */
export function NameRegistrations({
  channelId,
  name,
  rows,
  admin,
}: {
  channelId: string;
  name: string;
  rows: readonly NameRegistrationView[];
  admin: boolean;
}) {
  const begun = rows.filter(({ state }) => state !== undefined);
  const rest = rows.filter(({ state }) => state === undefined);
  return (
    <Section
      title="Registration of the name"
      id="name-registration"
      aside={
        admin && (
          <DialogForm
            open="Note where it stands"
            title={`Registration of ${name}`}
            description="The carrier hands it in with its papers and hears the decision; nothing is asked over the wire."
            submit="Save"
            action={nameRegistrationAction.bind(null, channelId)}
          >
            <SelectField
              name="country"
              label="Country"
              options={rows.map(({ country }): [string, string] => [country, countryName(country)])}
            />
            <SelectField
              name="state"
              label="It is"
              options={[...Object.entries(NAME_REGISTRATION_WORDS), ['none', 'not handed in']]}
            />
            <TextField name="said" label="Reference or reason" help="As the carrier gave it; may stay empty." />
          </DialogForm>
        )
      }
    >
      <Panel className="divide-y divide-line">
        {begun.map(({ country, state = 'submitted', since, said }) => (
          <div key={country} className="px-4 py-2.5" data-name-registration={`${country} ${state}`}>
            <p className="flex flex-wrap items-center gap-2">
              <ProofMark state={MARKS[state]} label="" />
              <span className="font-medium">{countryName(country)}</span>
              {NAME_REGISTRATION_WORDS[state]}
              {since && (
                <span className="text-soft">
                  since <Age at={since} />
                </span>
              )}
            </p>
            {said && <p className="text-[13px] text-soft">{said}</p>}
          </div>
        ))}
        <p className="px-4 py-2.5 text-[13px]">
          Nothing leaves under this name to {begun.length > 0 ? 'others that demand it' : 'these'} before it is
          registered there: {rest.map(({ country }) => countryName(country)).join(', ')}.
        </p>
      </Panel>
    </Section>
  );
}
