import type { Migration } from './migration';

/** Who wants a mail when somebody writes; and one to-do for each thing that could not be done by itself. */
export const reminders: Migration = {
  name: '0014-reminders',
  statements: [
    `ALTER TABLE users ADD COLUMN mail_me INTEGER NOT NULL DEFAULT 0`,
    `CREATE UNIQUE INDEX todos_of ON todos (ref) WHERE ref IS NOT NULL AND done_at IS NULL`,
  ],
};
