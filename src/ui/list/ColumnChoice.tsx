'use client';

import { useId, useState, useSyncExternalStore } from 'react';
import type { ListHead } from './rows';

export interface ChosenColumns {
  /** Places of the columns that are shown. */
  shown: ReadonlySet<number>;
  choose: (heads: readonly string[]) => void;
}

const PREFIX = 'windgap-columns-';
const listeners = new Set<() => void>();

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** The columns of a list: those of the kept view, those this browser remembers, or the usual ones. */
export function useChosenColumns(name: string, heads: readonly ListHead[], ofView: string | null): ChosenColumns {
  const remembered = useSyncExternalStore(
    subscribe,
    () => read(name),
    () => null,
  );
  const wanted = ofView ?? remembered;
  const named = wanted?.split(',');
  const shown = heads.flatMap(({ head, extra }, place) =>
    place === 0 || head === '' || (named ? named.includes(head) : !extra) ? [place] : [],
  );
  // What is remembered may be of columns that no longer exist.
  const usual = heads.flatMap(({ extra }, place) => (extra ? [] : [place]));
  const places = shown.some((place) => place > 0 && heads[place]?.head) ? shown : usual;
  return {
    shown: new Set(places),
    choose(chosen) {
      try {
        window.localStorage.setItem(PREFIX + name, chosen.join(','));
      } catch {
        // A browser that keeps nothing shows the usual columns next time.
      }
      // A view that is kept now keeps them, too.
      const address = new URL(window.location.href);
      address.searchParams.set('cols', chosen.join(','));
      window.history.replaceState(null, '', address);
      for (const listener of listeners) listener();
    },
  };
}

function read(name: string): string | null {
  try {
    return window.localStorage.getItem(PREFIX + name);
  } catch {
    return null;
  }
}

export function ColumnChoice({ heads, columns }: { heads: readonly ListHead[]; columns: ChosenColumns }) {
  const [open, setOpen] = useState(false);
  const id = useId();
  // The first says which row it is, and a column without a head holds what can be done.
  const offered = heads.map(({ head }, place) => ({ head, place })).filter(({ head, place }) => head && place > 0);
  const isShown = (place: number) => columns.shown.has(place);
  return (
    <span className="relative">
      <button
        type="button"
        aria-expanded={open}
        aria-controls={id}
        onClick={() => setOpen(!open)}
        className="h-8 cursor-pointer text-ridge"
      >
        Columns
      </button>
      {open && (
        <fieldset
          id={id}
          onKeyDown={({ key }) => key === 'Escape' && setOpen(false)}
          className="absolute right-0 z-10 grid gap-1 rounded border border-line bg-panel p-3 shadow-overlay"
        >
          <legend className="sr-only">Columns</legend>
          {offered.map(({ head, place }) => (
            <label key={head} className="flex items-center gap-2 whitespace-nowrap">
              <input
                type="checkbox"
                checked={isShown(place)}
                onChange={({ target }) =>
                  columns.choose(
                    heads
                      .filter((_, each) => (each === place ? target.checked : isShown(each)))
                      .map((each) => each.head),
                  )
                }
              />
              {head}
            </label>
          ))}
        </fieldset>
      )}
    </span>
  );
}
