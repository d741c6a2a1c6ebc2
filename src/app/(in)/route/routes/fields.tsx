'use client';

import { type ReactNode, useState } from 'react';

/** Small fields that stand inside a sentence. */
export const INPUT = 'rounded border border-line-strong bg-panel px-1.5 py-0.5 text-[13px]';

export function Choice<Value extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: Value;
  options: readonly (readonly [Value, string])[];
  onChange: (value: Value) => void;
}) {
  const known = options.some(([key]) => key === value);
  return (
    <select
      aria-label={label}
      className={`${INPUT} max-w-56`}
      value={value}
      onChange={(event) => onChange(event.target.value as Value)}
    >
      {!known && <option value={value}>{value ? 'something that is gone' : 'choose'}</option>}
      {options.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
}

export function Word({
  label,
  value,
  onChange,
  size = 14,
  offered = [],
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  size?: number;
  offered?: readonly string[];
}) {
  const list = offered.length > 0 ? `offered-${label.replace(/\W/g, '-')}` : undefined;
  return (
    <>
      <input
        aria-label={label}
        placeholder={label}
        size={size}
        list={list}
        className={INPUT}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      {list && (
        <datalist id={list}>
          {offered.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
    </>
  );
}

/**
 * A text that stands for something else: kept as it is typed while it reads as what is meant,
 * and written anew when what it stands for changes elsewhere.
 */
export function TextFor<Value>({
  label,
  value,
  write,
  read,
  onChange,
  placeholder = label,
  className = INPUT,
  size,
}: {
  label: string;
  value: Value;
  write: (value: Value) => string;
  /** Undefined while what is typed means nothing yet. */
  read: (text: string) => Value | undefined;
  onChange: (value: Value) => void;
  placeholder?: string;
  className?: string;
  size?: number;
}) {
  const [typed, setTyped] = useState<string>();
  const meant = typed === undefined ? undefined : read(typed);
  const standing = typed !== undefined && (meant === undefined || write(meant) === write(value));
  return (
    <input
      aria-label={label}
      aria-invalid={typed !== undefined && meant === undefined ? true : undefined}
      placeholder={placeholder}
      size={size}
      className={className}
      value={standing ? typed : write(value)}
      onChange={(event) => {
        setTyped(event.target.value);
        const next = read(event.target.value);
        if (next !== undefined) onChange(next);
      }}
      onBlur={() => setTyped(undefined)}
    />
  );
}

/** Words separated by commas. */
export function Words({
  label,
  values,
  onChange,
}: {
  label: string;
  values: readonly string[];
  onChange: (values: string[]) => void;
}) {
  return (
    <TextFor
      label={label}
      placeholder={`${label}, separated by commas`}
      size={26}
      value={values}
      write={(words) => words.join(', ')}
      read={wordsIn}
      onChange={(words) => onChange([...words])}
    />
  );
}

function wordsIn(text: string): readonly string[] {
  return text
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean);
}

/** One or several of what there is. */
export function Several({
  label,
  values,
  options,
  onChange,
}: {
  label: string;
  values: readonly string[];
  options: readonly (readonly [string, string])[];
  onChange: (values: string[]) => void;
}) {
  return (
    <fieldset className="inline-flex flex-wrap items-center gap-x-3 gap-y-1" aria-label={label}>
      {options.map(([id, name]) => (
        <label key={id} className="flex items-center gap-1.5 text-[13px]">
          <input
            type="checkbox"
            checked={values.includes(id)}
            onChange={(event) =>
              onChange(event.target.checked ? [...values, id] : values.filter((each) => each !== id))
            }
          />
          {name}
        </label>
      ))}
      {options.length === 0 && <span className="text-[13px] text-soft">there is none yet</span>}
    </fieldset>
  );
}

export function Small({
  children,
  onClick,
  label,
  disabled,
}: {
  children: ReactNode;
  onClick: () => void;
  label?: string;
  disabled?: boolean;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      disabled={disabled}
      onClick={onClick}
      className="rounded px-1.5 py-0.5 text-[13px] text-ridge underline-offset-4 hover:underline disabled:opacity-45"
    >
      {children}
    </button>
  );
}
