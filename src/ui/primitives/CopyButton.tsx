'use client';

import { Check, Copy } from 'lucide-react';
import { useState } from 'react';
import { systemClock } from '../../clock/clock';
import { buttonClass } from './Button';

/** Copies a value that has to be carried elsewhere. `what` says what it is, for people who cannot see it. */
export function CopyButton({ value, what }: { value: string; what: string }) {
  const [copied, setCopied] = useState(false);
  async function copy() {
    await navigator.clipboard.writeText(value);
    setCopied(true);
    systemClock.after(2000, () => setCopied(false));
  }
  return (
    <button type="button" onClick={copy} className={buttonClass('plain')} aria-label={`Copy ${what}`}>
      {copied ? <Check size={14} aria-hidden /> : <Copy size={14} aria-hidden />}
      <span aria-live="polite">{copied ? 'Copied' : 'Copy'}</span>
    </button>
  );
}

/** A value to carry across, who calls it, and the button to take it with. */
export function CarryValue({
  label,
  direction,
  value,
  note,
}: {
  label: string;
  direction: string;
  value: string;
  note?: string;
}) {
  return (
    <div>
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-x-4">
        <span className="font-medium">{label}</span>
        <span className="text-xs text-soft">{direction}</span>
      </div>
      <div className="flex items-stretch gap-2">
        <code className="min-w-0 flex-1 rounded border border-line bg-paper px-2 py-1.5 font-mono text-[13px] break-all">
          {value}
        </code>
        <CopyButton value={value} what={label} />
      </div>
      {note && <p className="mt-1 text-xs text-soft">{note}</p>}
    </div>
  );
}
