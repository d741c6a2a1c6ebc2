'use client';

import { useEffect, useRef } from 'react';
import { systemClock, type Timer } from '../../clock/clock';

/** Somebody who pauses so long, in milliseconds, has typed what they look for. */
const PAUSE = 250;

/**
 * A field that looks for what is typed as soon as its writer pauses. `step` tells whether Back is to lead to what was
 * before: to an empty field, but not through the letters of a word.
 */
export function TypedSearch({
  label,
  value,
  onSearch,
  className,
  placeholder,
}: {
  label: string;
  /** What is looked for now, as the address has it. */
  value: string;
  onSearch: (words: string, step: boolean) => void;
  className: string;
  placeholder?: string;
}) {
  const field = useRef<HTMLInputElement>(null);
  const asked = useRef(value);
  const pause = useRef<Timer | undefined>(undefined);
  useEffect(() => {
    // Where the address changed by itself, by Back or a kept view, the field follows; what is being typed stays.
    if (value === asked.current) return;
    asked.current = value;
    if (field.current) field.current.value = value;
  }, [value]);
  useEffect(() => () => pause.current?.cancel(), []);

  function search(words: string) {
    pause.current?.cancel();
    if (words === asked.current) return;
    const step = (asked.current === '') !== (words === '');
    asked.current = words;
    onSearch(words, step);
  }

  return (
    <input
      ref={field}
      type="search"
      data-filter
      aria-label={label}
      placeholder={placeholder}
      defaultValue={value}
      className={className}
      onChange={({ target }) => {
        pause.current?.cancel();
        pause.current = systemClock.after(PAUSE, () => search(target.value.trim()));
      }}
      onKeyDown={({ key, currentTarget }) => key === 'Enter' && search(currentTarget.value.trim())}
    />
  );
}
