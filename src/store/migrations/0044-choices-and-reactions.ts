import type { Migration } from './migration';

/** What a person may press below a message, and how they felt about one. */
export const choicesAndReactions: Migration = {
  name: '0044-choices-and-reactions',
  statements: [
    `ALTER TABLE messages ADD COLUMN choices JSON`,
    `CREATE TABLE reactions (
       message_id TEXT PRIMARY KEY REFERENCES messages(id) ON DELETE CASCADE, sign TEXT NOT NULL, at INTEGER NOT NULL
     ) WITHOUT ROWID`,
  ],
};
