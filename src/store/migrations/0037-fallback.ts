import type { Migration } from './migration';

/** Rules about the second way of messages, and what became of it for each message that had one. */
export const fallback: Migration = {
  name: '0037-fallback',
  statements: [
    `CREATE TABLE fallback_rules (
       id TEXT PRIMARY KEY, channel_id TEXT NOT NULL, to_id TEXT NOT NULL, countries JSON, what TEXT NOT NULL,
       after_ms INTEGER, twice INTEGER NOT NULL, created_at INTEGER NOT NULL) WITHOUT ROWID`,
    `CREATE INDEX fallback_rules_channel ON fallback_rules (channel_id)`,
    `CREATE TABLE fallbacks (
       message_id TEXT PRIMARY KEY, to_id TEXT NOT NULL, twice INTEGER NOT NULL, first_until INTEGER, due_at INTEGER,
       state TEXT NOT NULL, said TEXT, next_id TEXT, decided_at INTEGER) WITHOUT ROWID`,
    `CREATE INDEX fallbacks_due ON fallbacks (due_at) WHERE due_at IS NOT NULL`,
    `ALTER TABLE messages ADD COLUMN fallback_to TEXT`,
    `ALTER TABLE messages ADD COLUMN instead_of TEXT`,
    `ALTER TABLE messages ADD COLUMN continued_by TEXT`,
    // No message goes a second way twice.
    `CREATE UNIQUE INDEX messages_instead_of ON messages (instead_of) WHERE instead_of IS NOT NULL`,
  ],
};
