'use client';

import { INPUT } from '../../route/routes/fields';

export function Pick({
  label,
  value,
  options,
  onChange,
  none,
}: {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
  /** Offered for nothing. */
  none?: string;
}) {
  const known = value === '' || options.some(([id]) => id === value);
  return (
    <select
      aria-label={label}
      className={`${INPUT} max-w-64`}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {none !== undefined && <option value="">{none}</option>}
      {!known && <option value={value}>something that is gone</option>}
      {options.map(([id, words]) => (
        <option key={id} value={id}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** A whole number with its unit. */
export function Seconds({
  label,
  value,
  onChange,
  unit = 's',
  most = 600,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  unit?: string;
  most?: number;
}) {
  return (
    <span className="flex items-center gap-1">
      <input
        type="number"
        aria-label={label}
        className={`${INPUT} w-20 tabular-nums`}
        min={1}
        max={most}
        value={value}
        onChange={(event) => onChange(Math.min(most, Math.max(1, Math.round(Number(event.target.value) || 1))))}
      />
      {unit}
    </span>
  );
}

export function Say({
  label,
  value,
  onChange,
  rows,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** More than one line. */
  rows?: number;
}) {
  return rows ? (
    <textarea
      aria-label={label}
      rows={rows}
      className={`${INPUT} w-full font-mono text-xs`}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      spellCheck={false}
    />
  ) : (
    <input
      aria-label={label}
      placeholder={label}
      size={Math.min(60, Math.max(18, value.length + 2))}
      className={INPUT}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
