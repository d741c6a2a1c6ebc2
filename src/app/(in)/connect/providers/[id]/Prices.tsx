import { countryName } from '../../../../../core/addresses/display';
import type { PriceLine } from '../../../../../core/limits/prices';
import type { PriceListView } from '../../../../../operations/limits';
import { formatMoney } from '../../../../../ui/domain/money';
import { TextAreaField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Empty, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { pricesAction } from '../actions';

const SHOWN = 12;

/** What a text costs over an account: limits in money count by it. */
export function Prices({ accountId, list, admin }: { accountId: string; list: PriceListView; admin: boolean }) {
  return (
    <Section
      title="Prices"
      id="prices"
      aside={
        <span className="flex items-center gap-3">
          <span>{fromWhere(list)}</span>
          {admin && (
            <DialogForm
              open={list.from === 'nothing' ? 'Enter prices' : 'Replace prices'}
              title="Prices of a text"
              description="Paste the provider’s table with the headings destination, kind, price and currency. A destination is a country code, the beginning of numbers such as +4477, or * for the rest. An empty table goes back to the profile’s prices."
              submit="Save"
              action={pricesAction.bind(null, accountId)}
            >
              <TextAreaField name="table" label="Table" rows={12} initial={asTable(list.lines)} exact />
            </DialogForm>
          )}
        </span>
      }
    >
      {list.lines.length === 0 ? (
        <Empty what="No prices are known, so limits in money count nothing that leaves over this account." />
      ) : (
        <>
          <Table
            caption="Prices"
            rows={list.lines.slice(0, SHOWN).map((line, index) => ({ ...line, index }))}
            keyOf={({ index }) => String(index)}
            columns={[
              { head: 'To', cell: ({ to }) => placeOf(to) },
              { head: 'Numbers', cell: ({ kind }) => (kind === 'any' ? 'all' : kind) },
              { head: 'One part', figures: true, cell: ({ micros, currency }) => formatMoney(micros, currency) },
            ]}
          />
          {list.lines.length > SHOWN && <p className="mt-2 text-soft">and {list.lines.length - SHOWN} more lines</p>}
        </>
      )}
    </Section>
  );
}

function placeOf(to: string): string {
  if (to === '*') return 'everywhere else';
  return to.startsWith('+') ? `${to}…` : countryName(to);
}

function fromWhere({ from, by }: PriceListView): string {
  if (from === 'profile') return 'As its profile says.';
  return from === 'table' ? `Entered by ${by}.` : '';
}

/** For editing; a very long list is replaced, not edited. */
function asTable(lines: readonly PriceLine[]): string {
  if (lines.length > 500) return '';
  return [
    'destination,kind,price,currency',
    ...lines.map(({ to, kind, micros, currency }) => `${to},${kind},${micros / 1e6},${currency}`),
  ].join('\n');
}
