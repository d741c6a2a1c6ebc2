/** Tables of the set-up: what is changed in them is noted where somebody notes (`core/changeTrace`). */
import type { WhereOptions } from 'sequelize';
import { type ChangeTrace, changeTrace, type RowKey, type RowValues } from '../../core/changeTrace';
import type { Table } from './table';

/**
 * By the name a table is reached under, the columns that are no set-up: what was read from elsewhere, and what says when
 * something happened last. They are not reverted.
 */
export const SET_UP: Readonly<Record<string, readonly string[]>> = {
  accounts: [
    'state',
    'cause',
    'checked_at',
    'remote_name',
    'balance_micros',
    'balance_currency',
    'balance_at',
    'facts',
    'facts_at',
  ],
  numbers: [
    'inbound_url',
    'inbound_method',
    'inbound_fallback',
    'seen_at',
    'facts',
    'abilities',
    'kind',
    'country',
    'gone_at',
  ],
  channels: ['challenged_at'],
  apps: [],
  apiKeys: ['last_used_at', 'last_used_from'],
  subscriptions: ['breaker'],
  hooks: [],
  fallbackRules: [],
  profiles: [],
  routeRevisions: [],
};

export function tracedTable<Row extends object>(table: Table<Row>, name: string, key: readonly string[]): Table<Row> {
  const passing = SET_UP[name];
  if (!passing) return table;
  const keyOf = (row: Row): RowKey =>
    Object.fromEntries(key.map((column) => [column, (row as Record<string, string | number>)[column] as string]));
  const byKey = (row: Row) => keyOf(row) as WhereOptions<Row>;

  /** Notes what differs of a row, but for what passes. */
  const note = (trace: ChangeTrace, before: Row | undefined, after: Row | undefined) => {
    const row = after ?? before;
    if (!row) return;
    const differs = (column: string) =>
      !passing.includes(column) && JSON.stringify(columnOf(before, column)) !== JSON.stringify(columnOf(after, column));
    const columns = before && after ? Object.keys(row).filter(differs) : Object.keys(row);
    if (columns.length === 0) return;
    const pick = (of: Row | undefined): RowValues | null =>
      of ? Object.fromEntries(columns.map((column) => [column, columnOf(of, column)])) : null;
    trace.row({ table: name, key: keyOf(row), before: pick(before), after: pick(after) });
  };

  const noting = async <Result>(where: () => Promise<Row[]>, write: () => Promise<Result>): Promise<Result> => {
    const trace = changeTrace();
    if (!trace) return write();
    const before = await where();
    const result = await write();
    for (const row of before) note(trace, row, await table.one(byKey(row)));
    return result;
  };

  return {
    ...table,
    change: (where, values) =>
      noting(
        () => table.all(where),
        () => table.change(where, values),
      ),
    remove: (where) =>
      noting(
        () => table.all(where),
        () => table.remove(where),
      ),
    removeBy: (column, values) =>
      noting(
        () => table.allBy(column, values) as Promise<unknown> as Promise<Row[]>,
        () => table.removeBy(column, values),
      ),
    changeEach: (column, rows) =>
      noting(
        () =>
          table.allBy(
            column,
            rows.map((row) => row[column] as string),
          ) as Promise<unknown> as Promise<Row[]>,
        () => table.changeEach(column, rows),
      ),
    async put(row) {
      const trace = changeTrace();
      const before = trace && (await table.one(byKey(row)));
      await table.put(row);
      if (trace) note(trace, before, row);
    },
    async insert(rows) {
      await table.insert(rows);
      const trace = changeTrace();
      if (trace) for (const row of rows) note(trace, undefined, row);
    },
  };
}

const columnOf = (row: object | undefined, column: string): unknown =>
  (row as Record<string, unknown> | undefined)?.[column] ?? null;
