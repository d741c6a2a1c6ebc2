'use client';

import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useRef } from 'react';
import type { LogChoices } from '../../../../operations/log';
import { stateWord } from '../../../../ui/domain/Cairn';
import { TypedSearch } from '../../../../ui/list/TypedSearch';

const STATES = ['received', 'queued', 'sending', 'uncertain', 'sent', 'delivered', 'read', 'failed'] as const;

const SPANS: [string, string][] = [
  ['hour', 'the last hour'],
  ['day', 'the last day'],
  ['week', 'the last week'],
];

/** A time that a chart led to is a choice too. */
function withOwn(spans: [string, string][], own: string | null): [string, string][] {
  return own && !spans.some(([key]) => key === own)
    ? [...spans, [own, `since ${own.slice(0, 16).replace('T', ' ')}`]]
    : spans;
}

/** Filters live in the address, so that a view can be kept and sent on. */
export function MessageFilters({ choices }: { choices: LogChoices }) {
  const router = useRouter();
  const path = usePathname();
  const search = useSearchParams();
  // What was asked for last; the page that shows it may still be on its way when the next filter is set.
  const wanted = useRef(new URLSearchParams(search));
  useEffect(() => {
    wanted.current = new URLSearchParams(search);
  }, [search]);

  /** Back goes back through the filters, but not through the letters of a word. */
  function set(name: string, value: string, step = true) {
    const next = wanted.current;
    next.delete('before');
    // A span of its own ends with its beginning.
    if (name === 'since') next.delete('until');
    if (value) next.set(name, value);
    else next.delete(name);
    if (step) router.push(`${path}?${next}`, { scroll: false });
    else router.replace(`${path}?${next}`, { scroll: false });
  }

  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
      <Choice
        label="Direction"
        value={search.get('direction') ?? ''}
        set={(value) => set('direction', value)}
        options={[
          ['in', 'Inbound'],
          ['out', 'Outbound'],
        ]}
      />
      <Choice
        label="Status"
        value={search.get('state') ?? ''}
        set={(value) => set('state', value)}
        options={STATES.map((state) => [state, stateWord(state)])}
      />
      <Choice
        label="Channel"
        value={search.get('channel') ?? ''}
        set={(value) => set('channel', value)}
        options={choices.channels}
      />
      <Choice
        label="Time"
        value={search.get('since') ?? ''}
        set={(value) => set('since', value)}
        options={withOwn(SPANS, search.get('since'))}
      />
      <Choice
        label="Country"
        value={search.get('country') ?? ''}
        set={(value) => set('country', value)}
        options={choices.countries}
      />
      <Choice
        label="Cause"
        value={search.get('cause') ?? ''}
        set={(value) => set('cause', value)}
        options={choices.causes}
      />
      <Choice
        label="Sent by"
        value={search.get('origin') ?? ''}
        set={(value) => set('origin', value)}
        options={choices.origins}
      />
      <Choice
        label="Route"
        value={search.get('route') ?? search.get('routing') ?? ''}
        set={(value) => {
          wanted.current.delete('routing');
          if (value !== 'unrouted' && value !== 'held') return set('route', value);
          wanted.current.delete('route');
          set('routing', value);
        }}
        options={[
          ...choices.routes,
          ['unrouted', 'handled by no route'],
          ['held', 'held as a loop of automatic answers'],
        ]}
      />
      <div className="grid min-w-64 flex-1 gap-0.5 text-[13px]">
        <span aria-hidden className="text-soft">
          Words, number or @name
        </span>
        <TypedSearch
          label="Words, number or @name"
          value={search.get('q') ?? ''}
          onSearch={(words, step) => set('q', words, step)}
          className="h-8 w-full rounded border border-line-strong bg-panel px-2"
        />
      </div>
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
        className="h-8 max-w-40 rounded border border-line-strong bg-panel px-2"
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
