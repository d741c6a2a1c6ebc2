/**
 * The one place where processes meet: SQLite in WAL mode. Reads run freely on one
 * connection; writes go through `write`, one unit of work at a time in a process on a
 * connection of their own, so that no thread waits for a sibling's lock and every unit
 * commits whole or not at all.
 */
import { chmodSync, closeSync, copyFileSync, existsSync, mkdirSync, openSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import { QueryTypes, Sequelize } from 'sequelize';
import type sqlite3 from 'sqlite3';
import { type Clock, systemClock } from '../clock/clock';
import { asUnit } from '../core/unitOfWork';
import { MIGRATIONS } from './migrations';
import { LISTED, type Statements } from './schema/table';
import { defineTables, type Tables } from './schema/tables';

export interface Sql {
  /** Plain SQL for reading, with `:name` values. Columns come as stored: JSON as text. */
  select<Row extends object>(sql: string, values?: Record<string, unknown>): Promise<Row[]>;
}

/** Everything a unit of work may touch. It sees its own writes. */
export interface Unit extends Tables, Sql {
  /** Plain SQL for writing; answers how many rows it changed. */
  execute(sql: string, values?: Record<string, unknown>): Promise<number>;
}

export interface WriteOptions {
  /**
   * False for work that is done again by itself when a power cut undoes it: it commits
   * without waiting for the disk. Whatever somebody outside relies on stays true.
   */
  durable?: boolean;
}

export interface Store extends Tables, Sql {
  write<T>(work: (unit: Unit) => Promise<T>, options?: WriteOptions): Promise<T>;
  /** Rows of one table and nothing else: one durable statement, without a transaction around it. */
  append<Name extends keyof Tables>(table: Name, rows: Parameters<Tables[Name]['insert']>[0]): Promise<void>;
  close(): Promise<void>;
}

export interface StoreOptions {
  /** The system's own where none is given. */
  clock?: Clock;
  /** Milliseconds between two writes, in which another process gets its turn. For processes that write all the time. */
  pauseBetweenWrites?: number;
}

/**
 * SQLite is loaded with the first database, so that what only names the store, the build
 * above all, does without its compiled part.
 */
async function connector(): Promise<(file: string) => Sequelize> {
  const { default: sqlite } = await import('sqlite3');
  /** Readers wait for a moment in which the file is being set up; the writer has a queue of its own. */
  class PatientDatabase extends sqlite.Database {
    constructor(...args: ConstructorParameters<typeof sqlite.Database>) {
      super(...args);
      this.configure('busyTimeout', 10_000);
    }
  }
  const dialectModule = { ...sqlite, Database: PatientDatabase };
  return (file) =>
    new Sequelize({ dialect: 'sqlite', storage: file, logging: false, dialectModule, retry: { max: 0 } });
}

export async function openStore(file: string, { clock = systemClock, ...options }: StoreOptions = {}): Promise<Store> {
  mkdirSync(dirname(file), { recursive: true });
  const fresh = !existsSync(file) || statSync(file).size === 0;
  closedFile(file);
  const connect = await connector();
  const reader = connect(file);
  const writer = connect(file);
  const database = await connectionOf(writer);
  // Another process may be making the file at this moment; SQLite does not wait by itself for this one.
  await whenFree(clock, () => runner(database)('PRAGMA journal_mode = WAL'));
  await migrate(clock, writer, database, file, fresh);

  database.configure('busyTimeout', 0);
  const unit: Unit = {
    ...defineTables({ sequelize: writer, statements: statementsOf(database) }),
    select: selector(database),
    execute: executor(database),
  };
  const readerDatabase = await connectionOf(reader);
  let tail: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const turn = tail.then(work);
    tail = turn.catch(() => undefined);
    if (options.pauseBetweenWrites) tail = tail.then(() => clock.pause(options.pauseBetweenWrites ?? 0));
    return turn;
  };
  const setDurable = durabilityOf(database);
  return {
    ...defineTables({ sequelize: reader, statements: statementsOf(readerDatabase) }),
    select: selector(readerDatabase),
    write: (work, { durable = true } = {}) =>
      inTurn(async () => {
        await setDurable(durable);
        return inTransaction(clock, database, () => work(unit));
      }),
    append: (table, rows) =>
      inTurn(async () => {
        await setDurable(true);
        await whenFree(clock, () => unit[table].insert(rows as never));
      }),
    async close() {
      await tail;
      await Promise.all([reader.close(), writer.close()]);
    },
  };
}

/** Sequelize keeps one connection for everything outside its own transactions. */
function connectionOf(sequelize: Sequelize): Promise<sqlite3.Database> {
  const manager = sequelize.connectionManager as unknown as {
    getConnection(options: object): Promise<sqlite3.Database>;
  };
  return manager.getConnection({ type: 'read' });
}

function runner(database: sqlite3.Database) {
  return (sql: string, values: readonly unknown[] = []): Promise<void> =>
    new Promise((resolve, reject) => {
      database.run(sql, values, (error) => (error ? reject(error) : resolve()));
    });
}

function statementsOf(database: sqlite3.Database): Statements {
  return {
    run: runner(database),
    select: <Row extends object>(sql: string, values: readonly unknown[]) =>
      new Promise<Row[]>((resolve, reject) => {
        database.all<Row>(sql, values, (error, rows) => (error ? reject(error) : resolve(rows)));
      }),
  };
}

function selector(database: sqlite3.Database): Sql['select'] {
  const { select } = statementsOf(database);
  return <Row extends object>(text: string, values: Record<string, unknown> = {}) => {
    const { sql, places } = bind(text, values);
    return select<Row>(sql, places);
  };
}

function executor(database: sqlite3.Database): Unit['execute'] {
  return (text, values = {}) => {
    const { sql, places } = bind(text, values);
    return new Promise((resolve, reject) => {
      database.run(sql, places, function (error) {
        if (error) reject(error);
        else resolve(this.changes);
      });
    });
  };
}

/** Puts the values of `:name` in their places, a list as one value that SQLite takes apart. */
function bind(text: string, values: Record<string, unknown>): { sql: string; places: unknown[] } {
  const places: unknown[] = [];
  const sql = text.replace(/\(:([a-zA-Z]\w*)\)|:([a-zA-Z]\w*)/g, (whole, bracketed?: string, bare?: string) => {
    const name = bracketed ?? bare ?? '';
    if (!Object.hasOwn(values, name)) throw new Error(`The statement names :${name}, which was not given`);
    const value = values[name];
    if (!Array.isArray(value)) {
      places.push(value ?? null);
      return whole.replace(/:\w+/, '?');
    }
    if (!bracketed) throw new Error(`The statement has a list at :${name} without brackets around it`);
    places.push(JSON.stringify(value));
    return LISTED;
  });
  return { sql, places };
}

/** How long a write waits for other processes before it fails, and how long it sleeps between two tries. */
const LONGEST_WAIT = 30_000;
const RETRY_EVERY = 2;

async function inTransaction<T>(clock: Clock, database: sqlite3.Database, work: () => Promise<T>): Promise<T> {
  const run = runner(database);
  await whenFree(clock, () => run('BEGIN IMMEDIATE'));
  try {
    const result = await asUnit(work);
    await run('COMMIT');
    return result;
  } catch (error) {
    await run('ROLLBACK').catch(() => undefined);
    throw error;
  }
}

/** Switches between waiting for the disk at each commit and not, only when it changes. */
function durabilityOf(database: sqlite3.Database) {
  const run = runner(database);
  let now: boolean | undefined;
  return async (durable: boolean) => {
    if (durable === now) return;
    await run(`PRAGMA synchronous = ${durable ? 'FULL' : 'NORMAL'}`);
    now = durable;
  };
}

/**
 * Does what takes the write lock as soon as no other process holds it. SQLite's own
 * waiting sleeps up to 100 ms at a time and so loses every gap between the writes of a
 * busier process; asking again every other millisecond does not.
 */
async function whenFree<T>(clock: Clock, take: () => Promise<T>): Promise<T> {
  const deadline = clock.elapsed() + LONGEST_WAIT;
  for (;;) {
    try {
      return await take();
    } catch (error) {
      if ((error as { code?: string }).code !== 'SQLITE_BUSY' || clock.elapsed() > deadline) throw error;
      await clock.pause(RETRY_EVERY);
    }
  }
}

/** Applies what is missing, after copying an existing database aside. Safe when two processes start together. */
async function migrate(
  clock: Clock,
  writer: Sequelize,
  database: sqlite3.Database,
  file: string,
  fresh: boolean,
): Promise<void> {
  const applied = fresh ? new Set<string>() : await readApplied(writer);
  const missing = MIGRATIONS.find(({ name }) => !applied.has(name));
  if (!missing) return;
  if (applied.size > 0) {
    await writer.query('PRAGMA wal_checkpoint(TRUNCATE)');
    copyFileSync(file, `${file}.before-${missing.name}`);
  }
  // Only here, as it brings a command line of its own that every start would otherwise read.
  const { SequelizeStorage, Umzug } = await import('umzug');
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, statements }) => ({
      name,
      up: async () => {
        for (const statement of statements) await writer.query(statement);
      },
    })),
    storage: new SequelizeStorage({ sequelize: writer, tableName: 'migrations' }),
    logger: undefined,
  });
  await inTransaction(clock, database, () => umzug.up());
}

/** Only reads: what makes the table of migrations belongs into the transaction that fills it. */
async function readApplied(writer: Sequelize): Promise<Set<string>> {
  const named = `SELECT count(*) AS n FROM sqlite_master WHERE name = 'migrations'`;
  const [table] = await writer.query<{ n: number }>(named, { type: QueryTypes.SELECT });
  if (!table?.n) return new Set();
  const rows = await writer.query<{ name: string }>('SELECT name FROM migrations', { type: QueryTypes.SELECT });
  return new Set(rows.map((row) => row.name));
}

/** Before SQLite makes it: its log and its index take the mode of the database they belong to. */
function closedFile(path: string): void {
  closeSync(openSync(path, 'a', 0o600));
  try {
    chmodSync(path, 0o600);
  } catch {
    // Somebody else's file that was given to us.
  }
}
