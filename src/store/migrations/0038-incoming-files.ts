import type { Migration } from './migration';

/** Files that came as a link of the provider's, and how far fetching them has got. */
export const incomingFiles: Migration = {
  name: '0038-incoming-files',
  statements: [
    `CREATE TABLE incoming_files (
       id TEXT PRIMARY KEY, message_id TEXT NOT NULL, source TEXT NOT NULL, state TEXT NOT NULL, due_at INTEGER,
       attempts INTEGER NOT NULL, said TEXT, created_at INTEGER NOT NULL) WITHOUT ROWID`,
    `CREATE INDEX incoming_files_due ON incoming_files (due_at) WHERE due_at IS NOT NULL`,
    `CREATE INDEX incoming_files_message ON incoming_files (message_id)`,
  ],
};
