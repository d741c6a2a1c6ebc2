import type { Migration } from './migration';

/**
 * Identities of any kind: some hold within one account only, each knows since when and from where it is known and when
 * somebody last showed that it is theirs, and a history keeps whose it was before.
 */
export const identities: Migration = {
  name: '0033-identities',
  statements: [
    `ALTER TABLE contact_identities RENAME TO contact_identities_before`,
    `CREATE TABLE contact_identities (
       kind TEXT NOT NULL, scope TEXT NOT NULL DEFAULT '', value TEXT NOT NULL,
       contact_id TEXT NOT NULL REFERENCES contacts (id),
       since INTEGER NOT NULL, source TEXT NOT NULL, proved_at INTEGER, doubt TEXT, doubted_at INTEGER,
       PRIMARY KEY (kind, scope, value)) WITHOUT ROWID`,
    `INSERT INTO contact_identities (kind, scope, value, contact_id, since, source, proved_at)
       SELECT i.kind, '', i.value, i.contact_id, c.created_at, 'earlier',
              (SELECT v.last_inbound_at FROM conversations v WHERE v.contact_id = c.id
                AND (SELECT count(*) FROM contact_identities_before o WHERE o.contact_id = c.id) = 1)
         FROM contact_identities_before i JOIN contacts c ON c.id = i.contact_id`,
    `DROP TABLE contact_identities_before`,
    `CREATE INDEX contact_identities_contact ON contact_identities (contact_id)`,
    `CREATE INDEX contact_identities_value ON contact_identities (value)`,
    `CREATE TABLE identity_entries (
       id TEXT PRIMARY KEY, kind TEXT NOT NULL, scope TEXT NOT NULL, value TEXT NOT NULL, contact_id TEXT NOT NULL,
       what TEXT NOT NULL, at INTEGER NOT NULL, why TEXT NOT NULL, by TEXT NOT NULL) WITHOUT ROWID`,
    `CREATE INDEX identity_entries_of ON identity_entries (kind, scope, value)`,
    `CREATE INDEX identity_entries_contact ON identity_entries (contact_id)`,
  ],
};
