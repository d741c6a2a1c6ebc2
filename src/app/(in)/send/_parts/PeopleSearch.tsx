'use client';

import { useEffect, useId, useState } from 'react';
import { systemClock } from '../../../../clock/clock';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { findPeopleAction } from '../broadcasts/actions';

/** Single people, by a part of their name or their number. */
export function PeopleSearch({
  label,
  taken,
  onTyped,
  placeholder = 'Name or number of one person',
  onFound,
}: {
  label: string;
  taken: readonly string[];
  /** What is typed may be an address of somebody nobody knows: told of each change. */
  onTyped?: (typed: string) => void;
  placeholder?: string;
  onFound: (person: [string, string]) => void;
}) {
  const [typed, setTyped] = useState('');
  const [hits, setHits] = useState<[string, string][]>([]);
  const list = useId();
  useEffect(() => {
    if (typed.trim().length < 2) return setHits([]);
    const timer = systemClock.after(200, async () => {
      const answer = await throughAsking(() => findPeopleAction(typed));
      setHits(Array.isArray(answer) ? answer : []);
    });
    return timer.cancel;
  }, [typed]);
  const free = hits.filter(([id]) => !taken.includes(id));
  return (
    <span className="relative">
      <input
        role="combobox"
        aria-label={label}
        aria-expanded={free.length > 0}
        aria-controls={list}
        aria-autocomplete="list"
        className="w-56 rounded border border-line-strong bg-panel px-2 py-1 text-[13px]"
        placeholder={placeholder}
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          onTyped?.(event.target.value);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Escape') setTyped('');
          if (event.key !== 'Enter') return;
          event.preventDefault();
          const [first] = free;
          if (!first) return;
          onFound(first);
          setTyped('');
        }}
      />
      <div
        id={list}
        role="listbox"
        aria-label="People found"
        className={
          free.length > 0
            ? 'absolute left-0 z-20 mt-1 grid w-72 rounded border border-line-strong bg-panel py-1 shadow-lg'
            : 'sr-only'
        }
      >
        {free.map((person) => (
          <button
            key={person[0]}
            type="button"
            role="option"
            aria-selected={false}
            className="px-3 py-1 text-left text-[13px] hover:bg-hover"
            onClick={() => {
              onFound(person);
              setTyped('');
            }}
          >
            {person[1]}
          </button>
        ))}
      </div>
    </span>
  );
}
