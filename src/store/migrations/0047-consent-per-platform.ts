import type { Migration } from './migration';

/** An opt-in that was said on a chat platform covers that platform; every earlier one covers what it covered. */
export const consentPerPlatform: Migration = {
  name: '0047-consent-per-platform',
  statements: [
    `CREATE TABLE identity_consents_now (
       kind TEXT NOT NULL, scope TEXT NOT NULL, value TEXT NOT NULL, way TEXT NOT NULL, account TEXT NOT NULL,
       entry_id TEXT NOT NULL, since INTEGER NOT NULL, PRIMARY KEY (kind, scope, value, way, account)) WITHOUT ROWID`,
    `INSERT INTO identity_consents_now (kind, scope, value, way, account, entry_id, since)
       SELECT kind, scope, value, way, '', entry_id, since FROM identity_consents`,
    `DROP TABLE identity_consents`,
    `ALTER TABLE identity_consents_now RENAME TO identity_consents`,
  ],
};
