import type { ReactNode } from 'react';

export interface Column<Row> {
  head: string;
  cell: (row: Row) => ReactNode;
  /** Right-aligned tabular figures. */
  figures?: boolean;
  className?: string;
}

interface TableProps<Row> {
  caption: string;
  columns: Column<Row>[];
  rows: readonly Row[];
  keyOf: (row: Row) => string;
}

/** Dense table; scrolls sideways inside itself on narrow screens. The caption is for people who hear it. */
export function Table<Row>({ caption, columns, rows, keyOf }: TableProps<Row>) {
  return (
    <section aria-label={caption} tabIndex={0} className="overflow-x-auto rounded-md border border-line bg-panel">
      <table className="w-full border-collapse text-[13px]">
        <caption className="sr-only">{caption}</caption>
        <thead>
          <tr className="border-b border-line text-left text-soft">
            {columns.map((column) => (
              <th
                key={column.head}
                scope="col"
                className={`px-3 py-2 font-medium whitespace-nowrap ${column.figures ? 'text-right' : ''}`}
              >
                {column.head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={keyOf(row)} className="border-b border-line last:border-0 hover:bg-hover">
              {columns.map((column) => (
                <td
                  key={column.head}
                  className={`px-3 py-2 align-top ${column.figures ? 'text-right tabular-nums' : ''} ${column.className ?? ''}`}
                >
                  {column.cell(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
