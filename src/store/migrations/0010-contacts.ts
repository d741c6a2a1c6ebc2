import type { Migration } from './migration';

/** What is known of contacts, what they agreed to with its evidence, and audiences of them. */
export const contacts: Migration = {
  name: '0010-contacts',
  statements: [
    // Where a language or a zone comes from: 'number' when it was inferred, else who or what said it.
    `ALTER TABLE contacts ADD COLUMN language TEXT`,
    `ALTER TABLE contacts ADD COLUMN language_from TEXT`,
    `ALTER TABLE contacts ADD COLUMN zone TEXT`,
    `ALTER TABLE contacts ADD COLUMN zone_from TEXT`,
    `ALTER TABLE contacts ADD COLUMN merged_into TEXT`,
    `ALTER TABLE contacts ADD COLUMN seen_at INTEGER`,
    `CREATE TABLE contact_attributes (
      contact_id TEXT NOT NULL REFERENCES contacts (id), name TEXT NOT NULL, value TEXT NOT NULL, number REAL,
      PRIMARY KEY (contact_id, name)) WITHOUT ROWID`,
    `CREATE INDEX contact_attributes_by_value ON contact_attributes (name, value, contact_id)`,
    `CREATE INDEX contact_attributes_by_number ON contact_attributes (name, number, contact_id) WHERE number IS NOT NULL`,
    `CREATE TABLE contact_tags (
      contact_id TEXT NOT NULL REFERENCES contacts (id), tag TEXT NOT NULL, PRIMARY KEY (contact_id, tag)) WITHOUT ROWID`,
    `CREATE INDEX contact_tags_by_tag ON contact_tags (tag, contact_id)`,
    // Only ever added to, and kept when a contact is removed: what stands now is the last entry of each way.
    `CREATE TABLE consent_entries (
      id TEXT PRIMARY KEY, contact_id TEXT NOT NULL, way TEXT NOT NULL, what TEXT NOT NULL, at INTEGER NOT NULL,
      how TEXT NOT NULL, wording TEXT NOT NULL, by TEXT NOT NULL, ref TEXT)`,
    `CREATE INDEX consent_entries_of ON consent_entries (contact_id, id)`,
    `CREATE TABLE contact_consents (
      contact_id TEXT NOT NULL REFERENCES contacts (id), way TEXT NOT NULL, state TEXT NOT NULL, since INTEGER NOT NULL, entry_id TEXT NOT NULL,
      PRIMARY KEY (contact_id, way)) WITHOUT ROWID`,
    `CREATE INDEX contact_consents_by_state ON contact_consents (way, state, contact_id)`,
    `CREATE INDEX contact_identities_of ON contact_identities (contact_id)`,
    `CREATE INDEX contacts_seen ON contacts (seen_at) WHERE seen_at IS NOT NULL`,
    `UPDATE contacts SET seen_at = (SELECT max(created_at) FROM messages m WHERE m.contact_id = contacts.id AND m.direction = 'in')`,
    `CREATE INDEX contacts_by_name ON contacts (name COLLATE NOCASE, id)`,
    `CREATE TABLE audiences (
      id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE, conditions JSON NOT NULL, created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL)`,
    `CREATE TABLE imports (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, file TEXT NOT NULL, plan JSON NOT NULL, state TEXT NOT NULL, lines INTEGER NOT NULL, done INTEGER NOT NULL,
      created INTEGER NOT NULL, merged INTEGER NOT NULL, unchanged INTEGER NOT NULL, refused INTEGER NOT NULL,
      created_at INTEGER NOT NULL, by TEXT NOT NULL, ended_at INTEGER, problem TEXT)`,
    `CREATE TABLE import_lines (
      import_id TEXT NOT NULL, line INTEGER NOT NULL, outcome TEXT NOT NULL, reason TEXT, contact_id TEXT, before JSON,
      PRIMARY KEY (import_id, line)) WITHOUT ROWID`,
  ],
};
