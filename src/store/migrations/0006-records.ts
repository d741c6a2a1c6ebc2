import type { Migration } from './migration';

/** Where Windgap keeps records in apps: the credentials of each app, and what is kept of which message. */
export const records: Migration = {
  name: '0006-records',
  statements: [
    `CREATE TABLE app_accounts (
      app_id TEXT PRIMARY KEY REFERENCES apps (id), connector TEXT NOT NULL, sealed_credentials TEXT NOT NULL,
      state TEXT NOT NULL, cause TEXT, said TEXT, checked_at INTEGER, remote_name TEXT, changed_at INTEGER NOT NULL)`,
    `CREATE TABLE record_actions (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps (id), name TEXT NOT NULL,
      record TEXT NOT NULL, way TEXT NOT NULL, fields JSON NOT NULL, channels JSON,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, disabled_at INTEGER)`,
  ],
};
