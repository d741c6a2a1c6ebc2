import type { Migration } from './migration';

/** Contacts that turned out to be one person, so that it can be undone; and those that were said not to be. */
export const merges: Migration = {
  name: '0011-merges',
  statements: [
    `CREATE TABLE contact_merges (
      id TEXT PRIMARY KEY, kept_id TEXT NOT NULL REFERENCES contacts (id), gone_id TEXT NOT NULL REFERENCES contacts (id),
      at INTEGER NOT NULL, by TEXT NOT NULL, why TEXT NOT NULL, moved JSON NOT NULL, undone_at INTEGER)`,
    `CREATE INDEX contact_merges_kept ON contact_merges (kept_id)`,
    `CREATE INDEX contact_merges_gone ON contact_merges (gone_id)`,
    // The smaller id first.
    `CREATE TABLE contacts_apart (
      one_id TEXT NOT NULL REFERENCES contacts (id), other_id TEXT NOT NULL REFERENCES contacts (id),
      at INTEGER NOT NULL, by TEXT NOT NULL, PRIMARY KEY (one_id, other_id)) WITHOUT ROWID`,
    `CREATE INDEX messages_of_contact ON messages (contact_id, id)`,
    `CREATE INDEX contacts_by_language ON contacts (language) WHERE merged_into IS NULL`,
  ],
};
