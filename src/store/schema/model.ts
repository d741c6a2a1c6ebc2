/** One stored table as a Sequelize model. */
import { type DataType, DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';
import { type ColumnKind, type Statements, type Table, tableOver } from './table';

/** Columns are named by how they are stored; the row interfaces say what they mean. */
const KINDS: Record<ColumnKind, DataType> = {
  text: DataTypes.TEXT,
  whole: DataTypes.BIGINT,
  real: DataTypes.REAL,
  json: DataTypes.JSON,
  bytes: DataTypes.BLOB,
};

/** Where tables live: the models' connection, and the same connection for statements past the models. */
export interface Source {
  sequelize: Sequelize;
  statements: Statements;
}

export function table<Row extends object>(
  { sequelize, statements }: Source,
  name: string,
  key: readonly (keyof Row & string)[],
  columns: { [Column in keyof Required<Row>]: ColumnKind },
  generatedKey = false,
): Table<Row> {
  const attributes = Object.fromEntries(
    Object.entries(columns).map(([column, kind]) => [
      column,
      {
        type: column === key[0] && generatedKey ? DataTypes.INTEGER : KINDS[kind as ColumnKind],
        primaryKey: (key as readonly string[]).includes(column),
        autoIncrement: column === key[0] && generatedKey,
      },
    ]),
  );
  const model = sequelize.define(name, attributes, { tableName: name, timestamps: false });
  return tableOver(model as unknown as ModelStatic<Model<Row, Row>>, columns, statements);
}
