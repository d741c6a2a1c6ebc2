import type { Migration } from './migration';

/** Templates as they are written, the versions that were submitted, and files that go with them. */
export const templates: Migration = {
  name: '0009-templates',
  statements: [
    `CREATE TABLE templates (
      id TEXT PRIMARY KEY, kind TEXT NOT NULL, account_id TEXT REFERENCES provider_accounts (id), name TEXT NOT NULL,
      category TEXT NOT NULL, variants JSON NOT NULL, remote_id TEXT,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, changed_by TEXT NOT NULL, archived_at INTEGER)`,
    `CREATE UNIQUE INDEX templates_named ON templates (kind, account_id, name) WHERE archived_at IS NULL`,
    `CREATE TABLE template_versions (
      id TEXT PRIMARY KEY, template_id TEXT NOT NULL REFERENCES templates (id), number INTEGER NOT NULL, content JSON NOT NULL,
      state TEXT NOT NULL, remote_id TEXT NOT NULL, edition TEXT NOT NULL, filed_as TEXT, reasons JSON NOT NULL,
      submitted_at INTEGER NOT NULL, submitted_by TEXT NOT NULL, decided_at INTEGER, usual_minutes INTEGER,
      checked_at INTEGER, next_check_at INTEGER,
      -- What was found and foretold when it was submitted, to be held against what became of it.
      findings JSON NOT NULL, likelihood REAL NOT NULL,
      UNIQUE (template_id, number))`,
    `CREATE INDEX template_versions_to_check ON template_versions (next_check_at) WHERE next_check_at IS NOT NULL`,
    `CREATE INDEX template_versions_remote ON template_versions (remote_id)`,
    `CREATE TABLE template_events (
      id INTEGER PRIMARY KEY, template_id TEXT NOT NULL, at INTEGER NOT NULL, what TEXT NOT NULL, version INTEGER, by TEXT NOT NULL, detail JSON)`,
    `CREATE INDEX template_events_of ON template_events (template_id, id)`,
    `CREATE TABLE media_files (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, type TEXT NOT NULL, bytes INTEGER NOT NULL, content BLOB NOT NULL, created_at INTEGER NOT NULL)`,
    // Which template a message was made of, with its values; null for words of its own.
    `ALTER TABLE messages ADD COLUMN template JSON`,
    `ALTER TABLE send_hooks ADD COLUMN template JSON`,
    `ALTER TABLE sheets ADD COLUMN template JSON`,
  ],
};
