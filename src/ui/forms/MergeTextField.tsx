'use client';

import { useRef } from 'react';
import { listFields, mergeField, type PostedRecord } from '../../core/text/fields';
import { MeasureLine } from '../domain/MeasureLine';
import { Button } from '../primitives/Button';
import { Field } from './ActionForm';

interface Props {
  name: string;
  label: string;
  help?: string;
  value: string;
  onValue: (value: string) => void;
  /** A record whose fields are offered. */
  sample?: PostedRecord;
  /** The text as it would go out, which is what is measured; undefined when it cannot. */
  rendered?: string;
}

/** A text with merge fields: fields are put in from a real record, at the cursor. */
export function MergeTextField({ name, label, help, value, onValue, sample, rendered }: Props) {
  const area = useRef<HTMLTextAreaElement>(null);
  const choice = useRef<HTMLSelectElement>(null);
  function insert() {
    const field = choice.current?.value;
    const text = area.current;
    if (!field || !sample || !text) return;
    const written = mergeField(sample, field);
    const at = text.selectionStart;
    onValue(value.slice(0, at) + written + value.slice(text.selectionEnd));
    requestAnimationFrame(() => {
      text.focus();
      text.setSelectionRange(at + written.length, at + written.length);
    });
  }
  return (
    <div className="grid gap-2">
      <Field name={name} label={label} help={help}>
        {(attributes) => (
          <textarea
            {...attributes}
            ref={area}
            rows={4}
            className={`${attributes.className} font-mono text-[13px]`}
            value={value}
            onChange={(event) => onValue(event.target.value)}
          />
        )}
      </Field>
      {sample && (
        <div className="flex flex-wrap items-center gap-2 text-[13px]">
          <select
            ref={choice}
            aria-label="Field to insert"
            className="min-w-0 max-w-72 rounded border border-line-strong bg-panel px-2 py-1 font-mono"
          >
            {listFields(sample).map((field) => (
              <option key={field.name}>{field.name}</option>
            ))}
          </select>
          <Button onClick={insert}>Insert the field</Button>
        </div>
      )}
      {rendered !== undefined && <MeasureLine text={rendered} onFix={() => undefined} />}
    </div>
  );
}
