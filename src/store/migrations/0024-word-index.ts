import type { Migration } from './migration';

/**
 * The index of words lets go of what is deleted (SQLite FTS5 §4.4.3, contentless-delete tables): without it words of messages
 * that are gone would be found, and kept, for ever.
 */
export const wordIndex: Migration = {
  name: '0024-word-index',
  statements: [
    `DROP TRIGGER messages_are_numbered`,
    `DROP TABLE message_words`,
    `CREATE VIRTUAL TABLE message_words USING fts5(text, content='', contentless_delete=1, tokenize='unicode61 remove_diacritics 2')`,
    `INSERT INTO message_words (rowid, text) SELECT n.n, m.text FROM message_numbers n JOIN messages m ON m.id = n.message_id`,
    `CREATE TRIGGER messages_are_numbered AFTER INSERT ON messages BEGIN
      UPDATE messages SET country = (SELECT country FROM contacts WHERE id = new.contact_id) WHERE id = new.id;
      INSERT INTO message_numbers (message_id) VALUES (new.id);
      INSERT INTO message_words (rowid, text) VALUES (last_insert_rowid(), new.text);
    END`,
    `CREATE TRIGGER messages_are_reworded AFTER UPDATE OF text ON messages WHEN new.text IS NOT old.text BEGIN
      DELETE FROM message_words WHERE rowid = (SELECT n FROM message_numbers WHERE message_id = new.id);
      INSERT INTO message_words (rowid, text) SELECT n, new.text FROM message_numbers WHERE message_id = new.id;
    END`,
    `CREATE TRIGGER messages_are_forgotten AFTER DELETE ON messages BEGIN
      DELETE FROM message_words WHERE rowid = (SELECT n FROM message_numbers WHERE message_id = old.id);
      DELETE FROM message_numbers WHERE message_id = old.id;
    END`,
  ],
};
