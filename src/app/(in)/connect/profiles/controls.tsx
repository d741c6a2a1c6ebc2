import { useId } from 'react';

export const CONTROL = 'w-full rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';

/** One of several, by name. */
export function Choice({
  label,
  value,
  options,
  set,
}: {
  label: string;
  value: string;
  options: [string, string][];
  set: (value: string) => void;
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="text-[13px] text-soft">
        {label}
      </label>
      <select id={id} value={value} onChange={(event) => set(event.target.value)} className={CONTROL}>
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </div>
  );
}

/** What is typed. */
export function Words({
  label,
  value,
  set,
  secret = false,
  long = false,
}: {
  label: string;
  value: string;
  set: (value: string) => void;
  secret?: boolean;
  long?: boolean;
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="text-[13px] text-soft">
        {label}
      </label>
      {long ? (
        <textarea
          id={id}
          rows={5}
          value={value}
          onChange={(event) => set(event.target.value)}
          className={`${CONTROL} font-mono`}
        />
      ) : (
        <input
          id={id}
          type={secret ? 'password' : 'text'}
          autoComplete="off"
          value={value}
          onChange={(event) => set(event.target.value)}
          className={`${CONTROL} font-mono`}
        />
      )}
    </div>
  );
}
