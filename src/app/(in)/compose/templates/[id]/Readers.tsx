'use client';

import { countryName } from '../../../../../core/addresses/display';
import { guessMapping, mapValues, sameLanguage } from '../../../../../core/templates/mapping';
import { asOneText, type Values } from '../../../../../core/templates/render';
import { type Variant, variablesOf } from '../../../../../core/templates/template';
import { measureText } from '../../../../../core/text/measure';
import type { TemplateReaders } from '../../../../../operations/templates';
import { languageName } from '../../../../../ui/compose/direction';
import { formatMoney } from '../../../../../ui/domain/money';
import { Button } from '../../../../../ui/primitives/Button';

export type Example = TemplateReaders['examples'][number];

/** What an example says for each variable, and the variables it says nothing of: there the sample stands. */
export function valuesOf(
  variant: Variant,
  { attributes = {}, record = {} }: Example,
): { values: Values; unsaid: string[] } {
  const variables = variablesOf(variant);
  const mapping = guessMapping(variables, Object.keys(record), Object.keys(attributes));
  const { values } = mapValues(variables, mapping, { record, attributes });
  return {
    values: { ...variant.samples, ...values },
    unsaid: variables.filter((name) => !Object.hasOwn(values, name)),
  };
}

/** So that a sample is not taken for what somebody would read. */
export function Unsaid({ variant, example }: { variant: Variant; example: Example }) {
  const { unsaid } = valuesOf(variant, example);
  if (unsaid.length === 0) return null;
  return (
    <p className="mt-2 text-[13px] text-soft" data-unsaid={unsaid.join(' ')}>
      Of {unsaid.join(', ')} nothing is known here; the {unsaid.length === 1 ? 'sample stands' : 'samples stand'} in.
    </p>
  );
}

export function ExampleChoice({
  examples,
  chosen,
  onChoose,
}: {
  examples: readonly Example[];
  chosen: number;
  onChoose: (index: number) => void;
}) {
  const of = (people: boolean) =>
    examples.flatMap((example, index) =>
      (example.attributes !== undefined) === people ? [{ ...example, index }] : [],
    );
  return (
    <label className="mb-2 flex items-center gap-2 text-[13px]">
      Filled with
      <select
        value={chosen}
        onChange={(event) => onChoose(Number(event.target.value))}
        className="min-w-0 grow rounded border border-line-strong bg-panel px-2 py-0.5"
      >
        <option value={-1}>the samples</option>
        {([true, false] as const).map((people) => (
          <optgroup key={String(people)} label={people ? 'People written with lately' : 'Records posted lately'}>
            {of(people).map(({ label, index }) => (
              <option key={index} value={index}>
                {label}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
    </label>
  );
}

/** Languages people read that the template lacks: they get the first variant, whether they read it or not. */
export function MissingLanguages({
  variants,
  languages,
  onAdd,
}: {
  variants: readonly Variant[];
  languages: TemplateReaders['languages'];
  onAdd?: (language: string) => void;
}) {
  const [first] = variants;
  const missing = languages
    .filter(({ language }) => !variants.some((variant) => sameLanguage(variant.language, language)))
    .slice(0, 4);
  if (!first || missing.length === 0) return null;
  return (
    <div className="mt-2 text-[13px] text-soft" data-missing={missing.map(({ language }) => language).join(' ')}>
      <p>There is no variant for these, so they get {languageName(first.language)}:</p>
      <ul className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {missing.map(({ language, contacts }) => (
          <li key={language} className="flex items-center gap-1.5">
            <span className="tabular-nums">{contacts}</span> {contacts === 1 ? 'contact' : 'contacts'} reading{' '}
            {languageName(language)}
            {onAdd && (
              <Button tone="quiet" onClick={() => onAdd(language)}>
                Add
              </Button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What one message costs, by what was charged lately. */
export function PriceByCountry({
  variant,
  values,
  prices,
}: {
  variant: Variant;
  values: Values;
  prices: TemplateReaders['prices'];
}) {
  if (prices.length === 0)
    return <p className="mt-2 text-[13px] text-soft">No price is known yet: nothing was charged lately.</p>;
  const parts = measureText(asOneText(variant, values)).parts.length;
  return (
    <table className="mt-3 w-full text-[13px]">
      <caption className="mb-1 text-left text-soft">
        One text, in {parts === 1 ? 'one part' : `${parts} parts`}, at what was charged in the last 90 days
      </caption>
      <tbody>
        {prices.map(({ country, micros, currency, messages }) => (
          <tr key={`${country} ${currency}`} className="border-t border-line">
            <th scope="row" className="py-0.5 text-left font-normal">
              {countryName(country)}
            </th>
            <td className="text-right font-mono text-xs tabular-nums" data-price={country}>
              {formatMoney(micros * parts, currency)}
            </td>
            <td className="w-28 text-right text-soft tabular-nums">
              {messages} {messages === 1 ? 'message' : 'messages'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
