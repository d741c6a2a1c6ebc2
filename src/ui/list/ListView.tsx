'use client';

import { usePathname, useSearchParams } from 'next/navigation';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import { Bulk, type BulkAction } from './Bulk';
import { ColumnChoice, useChosenColumns } from './ColumnChoice';
import { containing, type ListHead, type ListRow, type Order, ordered } from './rows';

interface Row extends ListRow {
  cells: readonly ReactNode[];
}

/** What a person looks at stands in the address: `find`, `sort` and, of a kept view, `cols`. */
export function ListView({
  name,
  caption,
  heads,
  rows,
  bulk = [],
  paged = false,
  aside,
}: {
  name: string;
  caption: string;
  heads: readonly ListHead[];
  rows: readonly Row[];
  bulk?: readonly BulkAction[];
  paged?: boolean;
  aside?: ReactNode;
}) {
  const search = useSearchParams();
  const find = search.get('find') ?? '';
  const sort = search.get('sort');
  const columns = useChosenColumns(name, heads, search.get('cols'));
  const set = useAddress();
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());

  const found = useMemo(() => (paged ? rows : containing(rows, find)), [rows, find, paged]);
  const order = useMemo(() => (paged ? undefined : orderFrom(sort, heads)), [sort, heads, paged]);
  const shown = useMemo(() => ordered(found, order), [found, order]);
  const places = heads.map((_, place) => place).filter((place) => columns.shown.has(place));
  const chosen = shown.filter(({ key }) => picked.has(key)).map(({ key }) => key);

  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-[13px]">
        {!paged && <Find caption={caption} find={find} set={set} />}
        {!paged && (
          <span className="text-soft" role="status">
            {shown.length === rows.length ? count(rows.length) : `${shown.length} of ${count(rows.length)}`}
          </span>
        )}
        {aside}
        <span className="ml-auto">
          <ColumnChoice heads={heads} columns={columns} />
        </span>
      </div>
      <section aria-label={caption} tabIndex={0} className="overflow-x-auto rounded-md border border-line bg-panel">
        <table className="w-full border-collapse text-[13px]">
          <caption className="sr-only">{caption}</caption>
          <thead>
            <tr className="border-b border-line text-left text-soft">
              {bulk.length > 0 && (
                <th scope="col" className="w-8 py-2 pl-3">
                  <input
                    type="checkbox"
                    aria-label={`Select all ${shown.length} shown`}
                    checked={shown.length > 0 && chosen.length === shown.length}
                    onChange={({ target }) => setPicked(new Set(target.checked ? shown.map(({ key }) => key) : []))}
                  />
                </th>
              )}
              {places.map((place) => (
                <Head
                  key={place}
                  head={heads[place] as ListHead}
                  sortable={!paged && rows.some(({ values }) => values[place] !== undefined)}
                  down={order?.column === place ? order.down : undefined}
                  onSort={(down) => set({ sort: down === undefined ? '' : sortWord(heads[place] as ListHead, down) })}
                />
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map(({ key, cells }) => (
              <tr key={key} className="border-b border-line last:border-0 hover:bg-hover">
                {bulk.length > 0 && (
                  <td className="py-2 pl-3 align-top">
                    <input
                      type="checkbox"
                      aria-label={`Select ${String(rowName(shown, key))}`}
                      checked={picked.has(key)}
                      onChange={({ target }) => setPicked(toggled(picked, key, target.checked))}
                    />
                  </td>
                )}
                {places.map((place) => (
                  <td
                    key={place}
                    className={`px-3 py-2 align-top ${heads[place]?.figures ? 'text-right tabular-nums' : ''} ${heads[place]?.className ?? ''}`}
                  >
                    {cells[place]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {shown.length === 0 && (
          <p className="px-3 py-6 text-center text-[13px] text-soft">
            Nothing here contains “{find}”.{' '}
            <button type="button" className="text-ridge" onClick={() => set({ find: '' })}>
              Show all
            </button>
          </p>
        )}
      </section>
      {chosen.length > 0 && <Bulk ids={chosen} actions={bulk} onDone={() => setPicked(new Set())} />}
    </>
  );
}

const count = (rows: number) => `${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'}`;

function rowName(rows: readonly Row[], key: string) {
  return rows.find((row) => row.key === key)?.values.find((value) => value !== undefined) ?? key;
}

function toggled(picked: ReadonlySet<string>, key: string, on: boolean): ReadonlySet<string> {
  const next = new Set(picked);
  if (on) next.add(key);
  else next.delete(key);
  return next;
}

/** `-Monthly price`: the column by its head, the highest first. */
function sortWord({ head }: ListHead, down: boolean): string {
  return `${down ? '-' : ''}${head}`;
}

function orderFrom(sort: string | null, heads: readonly ListHead[]): Order | undefined {
  if (!sort) return undefined;
  const down = sort.startsWith('-');
  const column = heads.findIndex(({ head }) => head === (down ? sort.slice(1) : sort));
  return column < 0 ? undefined : { column, down };
}

/** Sets parts of the address without asking the server for the page again. `step`: whether Back leads to what was before. */
function useAddress() {
  const path = usePathname();
  return (changed: Record<string, string>, step = true) => {
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changed)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    const address = next.size > 0 ? `${path}?${next}` : path;
    if (step) window.history.pushState(null, '', address);
    else window.history.replaceState(null, '', address);
  };
}

/** Typing narrows at once; Back takes away what was typed, not one letter of it. */
function Find({ caption, find, set }: { caption: string; find: string; set: ReturnType<typeof useAddress> }) {
  const [typed, setTyped] = useState(find);
  const asked = useRef(find);
  useEffect(() => {
    if (find === asked.current) return;
    asked.current = find;
    setTyped(find);
  }, [find]);
  return (
    <input
      type="search"
      data-filter
      aria-label={`Find in ${caption}`}
      placeholder={`Find in ${caption.toLowerCase()}`}
      value={typed}
      onChange={({ target: { value } }) => {
        setTyped(value);
        set({ find: value }, (asked.current === '') !== (value === ''));
        asked.current = value;
      }}
      className="h-8 w-64 max-w-full rounded border border-line-strong bg-panel px-2"
    />
  );
}

function Head({
  head: { head, figures },
  sortable,
  down,
  onSort,
}: {
  head: ListHead;
  sortable: boolean;
  /** Undefined while it is not sorted by. */
  down: boolean | undefined;
  onSort: (down: boolean | undefined) => void;
}) {
  const sorted = down === undefined ? undefined : down ? 'descending' : 'ascending';
  return (
    <th
      scope="col"
      aria-sort={sorted}
      className={`px-3 py-2 font-medium whitespace-nowrap ${figures ? 'text-right' : ''}`}
    >
      {sortable && head ? (
        <button
          type="button"
          className="group cursor-pointer font-medium hover:text-ink"
          onClick={() => onSort(down === undefined ? false : down ? undefined : true)}
        >
          {head}
          <span
            aria-hidden
            className={`ml-1 ${sorted ? 'text-ridge' : 'opacity-0 group-hover:opacity-60 group-focus-visible:opacity-60'}`}
          >
            {down ? '↓' : '↑'}
          </span>
        </button>
      ) : (
        head
      )}
    </th>
  );
}
