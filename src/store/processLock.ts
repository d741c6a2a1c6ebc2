/**
 * A lock that one process at a time holds, on a file beside the database. The operating system
 * lets go of it when the process ends, however it ends, so none is ever left behind.
 */

export interface ProcessLock {
  release(): Promise<void>;
}

/** Takes the lock; undefined where another process holds it. */
export async function takeProcessLock(file: string): Promise<ProcessLock | undefined> {
  const { default: sqlite } = await import('sqlite3');
  const database = await new Promise<import('sqlite3').Database>((resolve, reject) => {
    const opened = new sqlite.Database(file, (error) => (error ? reject(error) : resolve(opened)));
  });
  const run = (sql: string) =>
    new Promise<void>((resolve, reject) => database.exec(sql, (error) => (error ? reject(error) : resolve())));
  const release = () => new Promise<void>((resolve) => database.close(() => resolve()));
  try {
    // SQLite locks the file itself; of two that ask at once one gets it.
    await run('PRAGMA journal_mode = MEMORY; BEGIN EXCLUSIVE');
    return { release };
  } catch (error) {
    await release();
    if ((error as { code?: string }).code === 'SQLITE_BUSY') return undefined;
    throw error;
  }
}
