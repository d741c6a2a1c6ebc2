import type { Migration } from './migration';

/** Which addresses an opt-in covers, and identities that were moved by hand, so that each can be undone. */
export const consentCoverage: Migration = {
  name: '0035-consent-coverage',
  statements: [
    `CREATE TABLE identity_consents (
       kind TEXT NOT NULL, scope TEXT NOT NULL, value TEXT NOT NULL, way TEXT NOT NULL,
       entry_id TEXT NOT NULL, since INTEGER NOT NULL, PRIMARY KEY (kind, scope, value, way)) WITHOUT ROWID`,
    // What people agreed to before held for every address of theirs then.
    `INSERT INTO identity_consents (kind, scope, value, way, entry_id, since)
       SELECT i.kind, i.scope, i.value, c.way, c.entry_id, c.since FROM contact_consents c
         JOIN contact_identities i ON i.contact_id = c.contact_id
          AND i.kind = CASE c.way WHEN 'web' THEN 'visitor' ELSE 'phone' END
        WHERE c.state = 'given'`,
    `CREATE TABLE identity_moves (
       id TEXT PRIMARY KEY, kind TEXT NOT NULL, scope TEXT NOT NULL, value TEXT NOT NULL,
       from_id TEXT NOT NULL, to_id TEXT NOT NULL, how TEXT NOT NULL, at INTEGER NOT NULL, by TEXT NOT NULL, why TEXT NOT NULL,
       moved JSON NOT NULL, undone_at INTEGER) WITHOUT ROWID`,
    `CREATE INDEX identity_moves_from ON identity_moves (from_id)`,
    `CREATE INDEX identity_moves_to ON identity_moves (to_id)`,
  ],
};
