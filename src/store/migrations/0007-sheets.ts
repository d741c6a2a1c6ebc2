import type { Migration } from './migration';

/** Sheets that are watched for rows to send, and sheets that messages are appended to. */
export const sheets: Migration = {
  name: '0007-sheets',
  statements: [
    `CREATE TABLE sheets (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps (id), name TEXT NOT NULL, way TEXT NOT NULL,
      -- A file in the folder for sheets, or an address.
      source TEXT NOT NULL,
      text TEXT NOT NULL, phone_field TEXT NOT NULL, country TEXT, sender JSON, media_field TEXT, tags JSON NOT NULL,
      key_column TEXT, columns JSON NOT NULL, channels JSON, begin_with TEXT NOT NULL,
      file_mark TEXT, scanned_at INTEGER, row_count INTEGER NOT NULL, samples JSON NOT NULL, problem TEXT,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, disabled_at INTEGER)`,
    // Every row that was ever seen, so that none is sent twice.
    `CREATE TABLE sheet_rows (
      sheet_id TEXT NOT NULL, row_key TEXT NOT NULL, line INTEGER NOT NULL, state TEXT NOT NULL, result TEXT,
      run_id TEXT, seen_at INTEGER NOT NULL, written_at INTEGER, PRIMARY KEY (sheet_id, row_key)) WITHOUT ROWID`,
    `CREATE INDEX sheet_rows_unwritten ON sheet_rows (sheet_id) WHERE written_at IS NULL AND state <> 'before'`,
  ],
};
