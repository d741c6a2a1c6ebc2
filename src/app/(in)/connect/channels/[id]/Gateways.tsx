import { countryName } from '../../../../../core/addresses/display';
import type { listGateways } from '../../../../../operations/outbound';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age } from '../../../../../ui/primitives/Time';
import { removeGatewayAction, saveGatewayAction } from '../actions';

type Row = Awaited<ReturnType<typeof listGateways>>[number];

/** Carriers and where they take mail for their phones: data, because carriers change it. */
export function Gateways({ rows, countries, admin }: { rows: Row[]; countries: [string, string][]; admin: boolean }) {
  return (
    <Section
      title="Gateways of carriers"
      id="gateways"
      aside={
        admin && (
          <DialogForm open="Add a carrier" title="Gateway of a carrier" submit="Save" action={saveGatewayAction}>
            <TextField name="carrier" label="Carrier" help="Exactly as the look-up service names it." />
            <TextField name="domain" label="Mail domain" help="What stands behind the @." exact />
            <SelectField name="country" label="Country" options={countries} />
            <SelectField
              name="localPart"
              label="The phone is written"
              options={[
                ['international', 'with the country’s digits, without +'],
                ['national', 'as dialled inside the country'],
              ]}
            />
          </DialogForm>
        )
      }
    >
      {rows.length === 0 ? (
        <p className="text-soft">No carrier is known yet, so nobody can be reached by mail.</p>
      ) : (
        <Table
          caption="Gateways of carriers"
          rows={rows}
          keyOf={(row) => row.carrier}
          columns={[
            { head: 'Carrier', cell: (row) => row.carrier },
            { head: 'Country', cell: (row) => countryName(row.country) },
            {
              head: 'Mail for a phone goes to',
              cell: (row) => (
                <code>
                  {row.localPart === 'national' ? 'national number' : 'country code and number'}@{row.domain}
                </code>
              ),
            },
            { head: 'Changed', cell: (row) => <Age at={row.changedAt} /> },
            {
              head: 'Remove',
              cell: (row) =>
                admin && <ActionButton action={removeGatewayAction.bind(null, row.carrier)}>Remove</ActionButton>,
            },
          ]}
        />
      )}
    </Section>
  );
}
