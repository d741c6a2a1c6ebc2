import type { Migration } from './migration';

/** Mailboxes that are read over IMAP: up to where each has been, and how the connection stands. */
export const mailboxes: Migration = {
  name: '0041-mailboxes',
  statements: [
    `CREATE TABLE mailbox_states (
       account_id TEXT PRIMARY KEY, validity TEXT, uid INTEGER NOT NULL, read_to INTEGER, taken INTEGER NOT NULL,
       state TEXT NOT NULL, since INTEGER NOT NULL, cause TEXT, said TEXT, next_try_at INTEGER) WITHOUT ROWID`,
  ],
};
