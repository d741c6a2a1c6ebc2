import type { Migration } from './migration';

/** A call that was refused is evidence of why an app's messages do not go out. */
export const refusedCalls: Migration = {
  name: '0050-refused-calls',
  statements: [
    `CREATE TABLE refused_calls (
      id INTEGER PRIMARY KEY AUTOINCREMENT, at INTEGER NOT NULL, last_at INTEGER NOT NULL, times INTEGER NOT NULL,
      app_id TEXT, app_name TEXT, key_hint TEXT, from_address TEXT, method TEXT NOT NULL, path TEXT NOT NULL,
      status INTEGER NOT NULL, type TEXT NOT NULL, said TEXT NOT NULL, body TEXT)`,
    `CREATE INDEX refused_calls_time ON refused_calls (last_at)`,
    `CREATE INDEX refused_calls_app ON refused_calls (app_id, last_at)`,
  ],
};
