import type { Attributes, Model, ModelStatic, WhereOptions } from 'sequelize';
import { NamedError } from '../../core/namedError';

/** What can be done with one stored table. Rows go in and come out as plain objects. */
export interface Table<Row extends object> {
  all(
    where?: WhereOptions<Row>,
    options?: { order?: [keyof Row & string, 'ASC' | 'DESC'][]; limit?: number },
  ): Promise<Row[]>;
  one(where: WhereOptions<Row>): Promise<Row | undefined>;
  /** Many rows by their keys, in any order, whole or some of their columns; for what comes in bulk. */
  allBy<Name extends keyof Row & string = keyof Row & string>(
    key: keyof Row & string,
    values: readonly (string | number)[],
    names?: readonly Name[],
  ): Promise<Pick<Row, Name>[]>;
  /** As `allBy`, without those whose documents are damaged: for who goes on with the others. */
  readableBy(key: keyof Row & string, values: readonly (string | number)[]): Promise<Row[]>;
  /** All rows that can be read; for small tables. */
  readable(): Promise<Row[]>;
  /** One row that a statement brought, with its documents read; where one of them is damaged, with these instead. */
  readOr(row: Row, instead: Partial<Row>): Row;
  /** Rows that a statement of one's own brought, with their documents read. */
  read<Brought extends Row>(rows: Brought[]): Brought[];
  count(where?: WhereOptions<Row>): Promise<number>;
  /** One statement for all rows, however many; they have the same columns. */
  insert(rows: Row[]): Promise<void>;
  /** Returns how many rows were changed. */
  change(where: WhereOptions<Row>, values: Partial<Row>): Promise<number>;
  /** Gives many rows new values in one statement: each by its key, all the same columns. */
  changeEach<Key extends keyof Row & string>(key: Key, rows: (Pick<Row, Key> & Partial<Row>)[]): Promise<void>;
  /** Inserts a row, or replaces the one with the same key. */
  put(row: Row): Promise<void>;
  remove(where: WhereOptions<Row>): Promise<number>;
  /** Many rows by their keys; for what comes in bulk. */
  removeBy(key: keyof Row & string, values: readonly (string | number)[]): Promise<void>;
}

import type { ColumnKind } from './definition';

/** Statements with positional values, past the models. */
export interface Statements {
  run(sql: string, values: readonly unknown[]): Promise<void>;
  select<Row extends object>(sql: string, values: readonly unknown[]): Promise<Row[]>;
}

/** A stored document is damaged. It is told which one, so that others are not held up by it. */
export class UnreadableRow extends NamedError {
  static override readonly called = 'UnreadableRow';
  constructor(table: string, column: string, key: unknown) {
    super(`The row ${String(key)} of ${table} cannot be read: its ${column} is damaged`);
  }
}

export function tableOver<Row extends object>(
  model: ModelStatic<Model<Row, Row>>,
  columns: Record<string, ColumnKind>,
  { run, select }: Statements,
): Table<Row> {
  type Where = WhereOptions<Attributes<Model<Row, Row>>>;
  const key = model.primaryKeyAttributes[0] ?? '';
  const documents = Object.keys(columns).filter((name) => columns[name] === 'json');
  const readForm = (row: Row): Row => {
    const values = row as Record<string, unknown>;
    for (const name of documents) {
      const text = values[name];
      if (typeof text !== 'string') continue;
      try {
        values[name] = JSON.parse(text);
      } catch {
        throw new UnreadableRow(model.tableName, name, values[key]);
      }
    }
    return row;
  };
  /** Reads the row's documents; false where one of them is damaged. */
  const canBeRead = (row: Row): boolean => {
    try {
      readForm(row);
      return true;
    } catch (error) {
      if (error instanceof UnreadableRow) return false;
      throw error;
    }
  };
  /** All rows as one value: binding it costs a fraction of binding theirs one by one, and any number fits. */
  const packed = (rows: readonly object[], names: readonly string[]) =>
    JSON.stringify(
      rows.map((row) => names.map((name) => packedForm((row as Record<string, unknown>)[name], columns[name]))),
    );
  const unpacked = (names: readonly string[]) =>
    names.map((name, index) => (columns[name] === 'bytes' ? `unhex(value->>${index})` : `value->>${index}`));
  return {
    async all(where, options = {}) {
      const found = await model.findAll({
        where: where as Where,
        order: options.order,
        limit: options.limit,
        // Instances of the model would cost more than the reading.
        raw: true,
      });
      return found.map((row) => readForm(row as unknown as Row));
    },
    async one(where) {
      const found = await model.findOne({ where: where as Where, raw: true });
      return found ? readForm(found as unknown as Row) : undefined;
    },
    async allBy(key, values, names) {
      if (values.length === 0) return [];
      const found = await select<Row>(`SELECT ${names ?? '*'} FROM ${model.tableName} WHERE ${key} IN ${LISTED}`, [
        JSON.stringify(values),
      ]);
      return found.map(readForm);
    },
    async readableBy(name, values) {
      if (values.length === 0) return [];
      const sql = `SELECT * FROM ${model.tableName} WHERE ${name} IN ${LISTED}`;
      return (await select<Row>(sql, [JSON.stringify(values)])).filter(canBeRead);
    },
    readable: async () => (await select<Row>(`SELECT * FROM ${model.tableName}`, [])).filter(canBeRead),
    readOr: (row, instead) => (canBeRead(row) ? row : { ...row, ...instead }),
    read: (rows) => rows.map((row) => readForm(row) as typeof row),
    count: (where) => model.count({ where: where as Where }),
    async insert(rows) {
      const first = rows[0];
      if (!first) return;
      // Everything that comes in bulk passes here, so the values go to SQLite past the models.
      const names = Object.keys(columns).filter((name) => name in first);
      const sql = `INSERT INTO ${model.tableName} (${names}) SELECT ${unpacked(names)} FROM json_each(?)`;
      await run(sql, [packed(rows, names)]);
    },
    async change(where, values) {
      const [changed] = await model.update(values as never, { where: where as Where });
      return changed;
    },
    async changeEach(key, rows) {
      const first = rows[0];
      if (!first) return;
      const names = [key, ...Object.keys(first).filter((name) => name !== key)];
      const given = unpacked(names).map((value, index) => `${value} AS v${index}`);
      const sets = names.slice(1).map((name, index) => `${name} = given.v${index + 1}`);
      await run(
        `UPDATE ${model.tableName} SET ${sets} FROM (SELECT ${given} FROM json_each(?)) AS given WHERE ${model.tableName}.${key} = given.v0`,
        [packed(rows, names)],
      );
    },
    async put(row) {
      await model.upsert(row as never);
    },
    remove: (where) => model.destroy({ where: where as Where }),
    async removeBy(key, values) {
      if (values.length > 0)
        await run(`DELETE FROM ${model.tableName} WHERE ${key} IN ${LISTED}`, [JSON.stringify(values)]);
    },
  };
}

/** The values of a list that is bound as one JSON text (SQLite's json_each). */
export const LISTED = '(SELECT value FROM json_each(?))';

function packedForm(value: unknown, kind: ColumnKind | undefined): unknown {
  if (value === undefined || value === null) return null;
  if (kind === 'json') return JSON.stringify(value);
  return kind === 'bytes' ? (value as Buffer).toString('hex') : value;
}
