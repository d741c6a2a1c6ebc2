/** How a stored table is described: once, and its rows, its model and the check of the migrations follow from it. */

/** How a value is stored. */
export type ColumnKind = 'text' | 'whole' | 'real' | 'json' | 'bytes';

export interface Column<Value> {
  kind: ColumnKind;
  nullable: boolean;
  /** Made by SQLite when a row is inserted without it. */
  generated: boolean;
  /** Never there: what a value of it is. */
  readonly value?: Value;
}

interface Generated extends Column<number> {
  generated: true;
}

const column = <Value>(kind: ColumnKind): Column<Value> => ({ kind, nullable: false, generated: false });

export const text = <Value extends string = string>() => column<Value>('text');
export const whole = <Value extends number = number>() => column<Value>('whole');
export const real = () => column<number>('real');
/** A document, read and written whole. */
export const json = <Value>() => column<Value>('json');
export const bytes = () => column<Buffer>('bytes');
export const generated = (): Generated => ({ kind: 'whole', nullable: false, generated: true });

export function orNull<Value>(of: Column<Value>): Column<Value | null> {
  return { ...of, nullable: true } as Column<Value | null>;
}

export type Columns = Record<string, Column<unknown>>;

export interface Definition<Own extends Columns> {
  table: string;
  key: readonly (keyof Own & string)[];
  columns: Own;
}

export function define<Own extends Columns>(
  table: string,
  key: readonly (keyof Own & string)[],
  columns: Own,
): Definition<Own> {
  return { table, key, columns };
}

type ValueOf<Own> = Own extends Column<infer Value> ? Value : never;
type GeneratedIn<Own extends Columns> = { [Name in keyof Own]: Own[Name] extends Generated ? Name : never }[keyof Own];
type Flat<Own> = { [Name in keyof Own]: Own[Name] };

/** A row as it is read and written; what SQLite generates may be left out. */
export type RowOf<Of> =
  Of extends Definition<infer Own>
    ? Flat<
        { [Name in Exclude<keyof Own, GeneratedIn<Own>>]: ValueOf<Own[Name]> } & {
          [Name in GeneratedIn<Own>]?: ValueOf<Own[Name]>;
        }
      >
    : never;
