/** What is read from the store, as pages get it: the columns under the names the code around them uses. */
import camelcaseKeys, { type CamelCaseKeys } from 'camelcase-keys';

/** A row with the names of its columns in camel case. What a column holds stays as it was stored. */
export type View<Row extends object> = CamelCaseKeys<Row>;

/** The row as pages get it. */
export function asView<Row extends object>(row: Row): View<Row> {
  return camelcaseKeys(row as Record<string, unknown>) as View<Row>;
}

/** The rows as pages get them. */
export function asViews<Row extends object>(rows: readonly Row[]): View<Row>[] {
  return rows.map((row) => asView(row));
}
