import { isValidElement, type ReactNode } from 'react';
import type { Column } from '../primitives/Table';
import type { BulkAction } from './Bulk';
import { ListView } from './ListView';
import type { ListHead, Value } from './rows';

export interface ListColumn<Row> extends Column<Row> {
  /** What it is sorted and found by; without it the text of its cell. */
  value?: (row: Row) => Value | null;
  /** Shown only once it was chosen. */
  extra?: boolean;
}

export interface ListProps<Row> {
  /** Under which the chosen columns are remembered, such as `numbers`. */
  name: string;
  caption: string;
  columns: readonly ListColumn<Row>[];
  rows: readonly Row[];
  keyOf: (row: Row) => string;
  /** What can be done to several rows at once. */
  bulk?: readonly BulkAction[];
  /** Whether the rows are only one page of what there is, so that finding and sorting are not the list's to do. */
  paged?: boolean;
  /** Stands in the line above the rows: how many there are, and the ways to take them out. */
  aside?: ReactNode;
}

/** A list a person works with: found in as they type, sorted by a column, with the columns they chose. */
export function List<Row>({ name, caption, columns, rows, keyOf, bulk, paged, aside }: ListProps<Row>) {
  const heads = columns.map(({ head, figures, className, extra }): ListHead => ({ head, figures, className, extra }));
  const prepared = rows.map((row) => {
    const cells = columns.map((column) => column.cell(row));
    const values = columns.map((column, place) =>
      column.value ? (column.value(row) ?? undefined) : textOf(cells[place]) || undefined,
    );
    return { key: keyOf(row), cells, values };
  });
  return (
    <ListView name={name} caption={caption} heads={heads} rows={prepared} bulk={bulk} paged={paged} aside={aside} />
  );
}

/** The words written between the tags of a cell. */
function textOf(node: ReactNode): string {
  if (typeof node === 'string' || typeof node === 'number') return String(node);
  if (Array.isArray(node)) return node.map(textOf).filter(Boolean).join(' ');
  return isValidElement<{ children?: ReactNode }>(node) ? textOf(node.props.children) : '';
}
