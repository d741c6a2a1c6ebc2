/** Every stored table, ready to be read and written. */
import type { Columns, Definition, RowOf } from './definition';
import { type Source, tableOf } from './model';
import * as definitions from './rows';
import type { Table } from './table';
import { tracedTable } from './tracedTable';

/** By the name each is reached under. */
export const DEFINITIONS: Readonly<Record<string, Definition<Columns>>> = definitions as never;

type Definitions = typeof definitions;
export type Tables = { [Name in keyof Definitions]: Table<RowOf<Definitions[Name]>> };

export function defineTables(source: Source): Tables {
  return Object.fromEntries(
    Object.entries(DEFINITIONS).map(([name, definition]) => [
      name,
      tracedTable(tableOf(source, definition), name, definition.key),
    ]),
  ) as unknown as Tables;
}
