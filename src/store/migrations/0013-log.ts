import type { Migration } from './migration';

/**
 * What the log over a million messages is looked through by. Words are kept in an index of
 * their own (SQLite FTS5, contentless), numbered as they came, so that the newest are found first.
 */
export const log: Migration = {
  name: '0013-log',
  statements: [
    `ALTER TABLE messages ADD COLUMN country TEXT`,
    `UPDATE messages SET country = (SELECT country FROM contacts c WHERE c.id = messages.contact_id)`,
    `CREATE INDEX messages_country ON messages (country, id)`,
    `CREATE INDEX messages_cause ON messages (cause, id) WHERE cause IS NOT NULL`,
    `CREATE INDEX messages_origin ON messages (origin_id, id) WHERE origin_kind IN ('app', 'route')`,
    `CREATE INDEX messages_created ON messages (created_at, id)`,
    `CREATE INDEX messages_direction ON messages (direction, id)`,
    `CREATE TABLE message_numbers (n INTEGER PRIMARY KEY AUTOINCREMENT, message_id TEXT NOT NULL UNIQUE)`,
    `CREATE VIRTUAL TABLE message_words USING fts5(text, content='', tokenize='unicode61 remove_diacritics 2')`,
    `INSERT INTO message_numbers (message_id) SELECT id FROM messages ORDER BY id`,
    `INSERT INTO message_words (rowid, text) SELECT n.n, m.text FROM message_numbers n JOIN messages m ON m.id = n.message_id`,
    `CREATE TRIGGER messages_are_numbered AFTER INSERT ON messages BEGIN
      UPDATE messages SET country = (SELECT country FROM contacts WHERE id = new.contact_id) WHERE id = new.id;
      INSERT INTO message_numbers (message_id) VALUES (new.id);
      INSERT INTO message_words (rowid, text) VALUES (last_insert_rowid(), new.text);
    END`,
    `CREATE TABLE message_routes (route_id TEXT NOT NULL, message_id TEXT NOT NULL, PRIMARY KEY (route_id, message_id)) WITHOUT ROWID`,
    `INSERT INTO message_routes (route_id, message_id)
      SELECT DISTINCT value->>'$.id', message_id FROM message_routings, json_each(message_routings.routes)`,
    `CREATE TABLE log_views (
      id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE, query TEXT NOT NULL, created_at INTEGER NOT NULL, by TEXT NOT NULL)`,
  ],
};
