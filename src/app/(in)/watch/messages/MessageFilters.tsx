'use client';

import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useRef } from 'react';
import { stateWord } from '../../../../ui/domain/Cairn';

const STATES = ['received', 'queued', 'sending', 'uncertain', 'sent', 'delivered', 'read', 'failed'] as const;

/** Filters live in the address, so that a view can be kept and sent on. */
export function MessageFilters({ channels }: { channels: [string, string][] }) {
  const router = useRouter();
  const path = usePathname();
  const search = useSearchParams();
  // What was asked for last; the page that shows it may still be on its way when the next filter is set.
  const wanted = useRef(new URLSearchParams(search));
  useEffect(() => {
    wanted.current = new URLSearchParams(search);
  }, [search]);

  function set(name: string, value: string) {
    const next = wanted.current;
    next.delete('before');
    if (value) next.set(name, value);
    else next.delete(name);
    router.replace(`${path}?${next}`);
  }

  return (
    <div className="mb-3 flex flex-wrap items-end gap-3">
      <Choice
        label="Direction"
        value={search.get('direction') ?? ''}
        set={(value) => set('direction', value)}
        options={[
          ['in', 'In'],
          ['out', 'Out'],
        ]}
      />
      <Choice
        label="Progress"
        value={search.get('state') ?? ''}
        set={(value) => set('state', value)}
        options={STATES.map((state) => [state, stateWord(state)])}
      />
      <Choice
        label="Channel"
        value={search.get('channel') ?? ''}
        set={(value) => set('channel', value)}
        options={channels}
      />
      <label className="grid flex-1 gap-0.5 text-[13px]">
        <span className="text-soft">Words, name or number</span>
        <input
          data-filter
          defaultValue={search.get('q') ?? ''}
          onKeyDown={(event) => event.key === 'Enter' && set('q', event.currentTarget.value)}
          onBlur={(event) =>
            event.currentTarget.value !== (wanted.current.get('q') ?? '') && set('q', event.currentTarget.value)
          }
          className="h-8 rounded border border-line-strong bg-panel px-2"
        />
      </label>
    </div>
  );
}

function Choice({
  label,
  value,
  set,
  options,
}: {
  label: string;
  value: string;
  set: (value: string) => void;
  options: readonly [string, string][];
}) {
  return (
    <label className="grid gap-0.5 text-[13px]">
      <span className="text-soft">{label}</span>
      <select
        value={value}
        onChange={(event) => set(event.target.value)}
        className="h-8 rounded border border-line-strong bg-panel px-2"
      >
        <option value="">All</option>
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
