/** One stored table as a Sequelize model. */
import { type DataType, DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';
import type { ColumnKind, Columns, Definition, RowOf } from './definition';
import { type Statements, type Table, tableOver } from './table';

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

export function tableOf<Of extends Definition<Columns>>(
  { sequelize, statements }: Source,
  { table, key, columns }: Of,
): Table<RowOf<Of> & object> {
  type Row = RowOf<Of> & object;
  const attributes = Object.fromEntries(
    Object.entries(columns).map(([name, { kind, generated }]) => [
      name,
      {
        type: generated ? DataTypes.INTEGER : KINDS[kind],
        primaryKey: key.includes(name),
        autoIncrement: generated,
      },
    ]),
  );
  const model = sequelize.define(table, attributes, { tableName: table, timestamps: false });
  const kinds = Object.fromEntries(Object.entries(columns).map(([name, { kind }]) => [name, kind]));
  return tableOver(model as unknown as ModelStatic<Model<Row, Row>>, kinds, statements);
}
