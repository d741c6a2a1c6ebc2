'use client';

import { cloneElement, type ReactElement, type ReactNode, useId } from 'react';

export const INPUT = 'w-full rounded border border-line-strong bg-panel px-2.5 py-1.5';
export const SMALL = 'rounded border border-line-strong bg-panel px-2 py-1 text-[13px]';

/** A control with its label above, and help below. */
export function Labelled({
  label,
  help,
  children,
}: {
  label: string;
  help?: string;
  children: ReactElement<{ id?: string; 'aria-describedby'?: string }>;
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-1 block font-medium">
        {label}
      </label>
      {cloneElement(children, { id, ...(help ? { 'aria-describedby': `${id}-help` } : {}) })}
      {help && (
        <p id={`${id}-help`} className="mt-1 text-[13px] text-soft">
          {help}
        </p>
      )}
    </div>
  );
}

export function Part({ id, title, children }: { id: string; title: string; children: ReactNode }) {
  return (
    <section id={id} aria-labelledby={`${id}-title`} className="scroll-mt-4 border-t border-line pt-4">
      <h2 id={`${id}-title`} className="mb-3 text-[15px] font-semibold">
        {title}
      </h2>
      <div className="grid gap-3">{children}</div>
    </section>
  );
}

export function Tick({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      {label}
    </label>
  );
}

export function Figure({ label, value, onValue }: { label: string; value: number; onValue: (value: number) => void }) {
  return (
    <Labelled label={label}>
      <input
        className={`${INPUT} font-mono`}
        inputMode="numeric"
        value={value}
        onChange={(event) => onValue(Number(event.target.value.replace(/\D/g, '').slice(0, 5)) || 0)}
      />
    </Labelled>
  );
}
