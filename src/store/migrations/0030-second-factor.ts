import type { Migration } from './migration';

/** A second factor beside the password, sign-in through an identity provider, and when somebody last showed that it is they. */
export const secondFactor: Migration = {
  name: '0030-second-factor',
  statements: [
    `ALTER TABLE sessions ADD COLUMN way TEXT NOT NULL DEFAULT 'password'`,
    `ALTER TABLE sessions ADD COLUMN confirmed_at INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE sessions ADD COLUMN provider_token TEXT`,
    `ALTER TABLE users ADD COLUMN sealed_code_secret TEXT`,
    `ALTER TABLE users ADD COLUMN code_step INTEGER`,
    `ALTER TABLE users ADD COLUMN provider_subject TEXT`,
    `ALTER TABLE users DROP COLUMN session_version`,
    `CREATE UNIQUE INDEX users_of_provider ON users (provider_subject) WHERE provider_subject IS NOT NULL`,
    `CREATE TABLE passkeys (id TEXT PRIMARY KEY, user_id TEXT NOT NULL, public_key TEXT NOT NULL, counter INTEGER NOT NULL,
       transports TEXT NOT NULL, name TEXT NOT NULL, created_at INTEGER NOT NULL, used_at INTEGER)`,
    `CREATE INDEX passkeys_of ON passkeys (user_id)`,
    `CREATE TABLE recovery_codes (code_hash TEXT PRIMARY KEY, user_id TEXT NOT NULL, created_at INTEGER NOT NULL, used_at INTEGER)`,
    `CREATE INDEX recovery_codes_of ON recovery_codes (user_id)`,
    `CREATE TABLE sign_in_steps (token_hash TEXT PRIMARY KEY, kind TEXT NOT NULL, user_id TEXT, value TEXT NOT NULL,
       created_at INTEGER NOT NULL, expires_at INTEGER NOT NULL)`,
  ],
};
