'use client';

import { type Mapping, mapValues, type Source } from '../../../../core/templates/mapping';
import { allVariables } from '../../../../core/templates/template';
import { listFields, type PostedRecord } from '../../../../core/text/fields';
import type { TemplateOffer } from '../../../../operations/templateTexts';
import { FindingLine } from '../../../../ui/domain/Findings';

interface Props {
  template: TemplateOffer;
  mapping: Mapping;
  onMapping: (mapping: Record<string, Source>) => void;
  /** Newest first. */
  samples: readonly PostedRecord[];
  what: string;
}

/** Where each variable of a template gets its value, with what the latest records make of it. */
export function MappingFields({ template, mapping, onMapping, samples, what }: Props) {
  const variables = allVariables(template.variants);
  const [latest] = samples;
  const fields = latest ? listFields(latest).map(({ name }) => name) : [];
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
          samples={samples}
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
  samples: readonly PostedRecord[];
  what: string;
  onSource: (source: Source) => void;
}

const INPUT = 'w-full rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';

function Variable({ variable, source, fields, samples, what, onSource }: VariableProps) {
  const chosen = source?.from === 'constant' ? '=' : source?.from === 'field' ? source.field : '';
  const offered = chosen && chosen !== '=' && !fields.includes(chosen) ? [...fields, chosen] : fields;
  const made = samples.map((record) => mapValues([variable], source ? { [variable]: source } : {}, { record }));
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
        onChange={(event) => {
          const from = event.target.value;
          onSource(from === '=' ? { from: 'constant', value: '' } : { from: 'field', field: from });
        }}
      >
        <option value="">choose</option>
        {offered.map((field) => (
          <option key={field} value={field}>
            {field}
          </option>
        ))}
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
          onChange={(event) => source?.from === 'field' && onSource({ ...source, fallback: event.target.value })}
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
