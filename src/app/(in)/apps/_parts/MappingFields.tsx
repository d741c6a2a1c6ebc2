'use client';

import { STANDARD_ATTRIBUTES } from '../../../../core/contacts/attributes';
import { type Mapping, mapValues, type Source } from '../../../../core/templates/mapping';
import { allVariables } from '../../../../core/templates/template';
import { listFields, type PostedRecord } from '../../../../core/text/fields';
import type { TemplateOffer } from '../../../../operations/templates';
import { FindingLine } from '../../../../ui/domain/Findings';

interface Props {
  template: TemplateOffer;
  mapping: Mapping;
  onMapping: (mapping: Record<string, Source>) => void;
  /** Newest first. */
  samples: readonly PostedRecord[];
  /** What is known of the one a record is about. */
  attributesOf: (record: PostedRecord) => Readonly<Record<string, string>>;
  what: string;
}

/** Where each variable of a template gets its value, with what the latest records make of it. */
export function MappingFields({ template, mapping, onMapping, samples, attributesOf, what }: Props) {
  const variables = allVariables(template.variants);
  const [latest] = samples;
  const fields = latest ? listFields(latest).map(({ name }) => name) : [];
  const attributes = [
    ...new Set([...STANDARD_ATTRIBUTES, ...samples.flatMap((record) => Object.keys(attributesOf(record)))]),
  ];
  const set = (variable: string, source: Source) => onMapping({ ...mapping, [variable]: source });
  return (
    <div className="grid gap-2">
      {template.problem && <FindingLine finding={template.problem} />}
      {variables.map((variable) => (
        <Variable
          key={variable}
          variable={variable}
          source={mapping[variable]}
          fields={fields}
          attributes={attributes}
          samples={samples}
          attributesOf={attributesOf}
          what={what}
          onSource={(source) => set(variable, source)}
        />
      ))}
    </div>
  );
}

interface VariableProps {
  variable: string;
  source: Source | undefined;
  fields: readonly string[];
  attributes: readonly string[];
  samples: readonly PostedRecord[];
  attributesOf: Props['attributesOf'];
  what: string;
  onSource: (source: Source) => void;
}

const INPUT = 'w-full rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';

function Variable({ variable, source, fields, attributes, samples, attributesOf, what, onSource }: VariableProps) {
  const chosen = choiceOf(source);
  const offered = source?.from === 'field' && !fields.includes(source.field) ? [...fields, source.field] : fields;
  const known =
    source?.from === 'attribute' && !attributes.includes(source.attribute)
      ? [...attributes, source.attribute]
      : attributes;
  const made = samples.map((record) =>
    mapValues([variable], source ? { [variable]: source } : {}, { record, attributes: attributesOf(record) }),
  );
  const [latest] = made;
  const bad = made.filter(({ findings }) => findings.length > 0);
  const finding = bad[0]?.findings[0];
  return (
    <div
      className="grid gap-x-3 gap-y-1 rounded border border-line px-3 py-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)_minmax(0,1fr)]"
      data-variable={variable}
    >
      <span className="self-center truncate font-mono text-[13px]">{`{{ ${variable} }}`}</span>
      <select
        name={`map.${variable}`}
        aria-label={`Value of ${variable}`}
        className={INPUT}
        value={chosen}
        onChange={(event) => onSource(sourceOf(event.target.value))}
      >
        <option value="">choose</option>
        <optgroup label={`Of the ${what}`}>
          {offered.map((field) => (
            <option key={field} value={field}>
              {field}
            </option>
          ))}
        </optgroup>
        <optgroup label="Of the contact">
          {known.map((name) => (
            <option key={name} value={`@${name}`}>
              contact’s {name}
            </option>
          ))}
        </optgroup>
        <option value="=">always the same:</option>
      </select>
      {source?.from === 'constant' ? (
        <input
          name={`constant.${variable}`}
          aria-label={`Always for ${variable}`}
          className={INPUT}
          value={source.value}
          onChange={(event) => onSource({ from: 'constant', value: event.target.value })}
        />
      ) : (
        <input
          name={`fallback.${variable}`}
          aria-label={`Instead of an empty ${variable}`}
          placeholder="if it is empty"
          className={INPUT}
          value={source?.fallback ?? ''}
          onChange={(event) => source && onSource({ ...source, fallback: event.target.value })}
        />
      )}
      <div className="text-[13px] text-soft sm:col-span-3">
        {finding ? (
          <FindingLine
            finding={{
              ...finding,
              problem:
                samples.length > 1 && bad.length < samples.length
                  ? `${finding.problem} In ${bad.length} of the last ${samples.length} ${what}s.`
                  : finding.problem,
            }}
          />
        ) : (
          latest && (
            <>
              The latest {what} says “{latest.values[variable]}”.
            </>
          )
        )}
      </div>
    </div>
  );
}

/** A source as one choice of a list: a field, `@` and an attribute, or `=`. */
function choiceOf(source: Source | undefined): string {
  if (!source) return '';
  if (source.from === 'constant') return '=';
  return source.from === 'field' ? source.field : `@${source.attribute}`;
}

function sourceOf(choice: string): Source {
  if (choice === '=') return { from: 'constant', value: '' };
  return choice.startsWith('@') ? { from: 'attribute', attribute: choice.slice(1) } : { from: 'field', field: choice };
}
