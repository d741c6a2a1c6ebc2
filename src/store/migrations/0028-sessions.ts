import type { Migration } from './migration';

/** Sessions are kept here and no longer in the browser alone: whoever was signed in signs in once more. */
export const sessions: Migration = {
  name: '0028-sessions',
  statements: [
    `CREATE TABLE sessions (id TEXT PRIMARY KEY, user_id TEXT NOT NULL, token_hash TEXT NOT NULL UNIQUE, created_at INTEGER NOT NULL,
       seen_at INTEGER NOT NULL, address TEXT NOT NULL, browser TEXT NOT NULL, ended_at INTEGER, ended_why TEXT)`,
    `CREATE INDEX sessions_of ON sessions (user_id, ended_at)`,
    `CREATE TABLE entry_codes (id TEXT PRIMARY KEY, user_id TEXT NOT NULL, code_hash TEXT NOT NULL UNIQUE, kind TEXT NOT NULL,
       made_by TEXT NOT NULL, created_at INTEGER NOT NULL, expires_at INTEGER NOT NULL, used_at INTEGER)`,
    `CREATE INDEX entry_codes_of ON entry_codes (user_id)`,
    `ALTER TABLE users ADD COLUMN seen_at INTEGER`,
  ],
};
