import type { Migration } from './migration';

/** What a mail has besides its words: a subject, whether a program wrote it, and any number of files. */
export const mail: Migration = {
  name: '0034-mail',
  statements: [
    `ALTER TABLE messages ADD COLUMN subject TEXT`,
    `ALTER TABLE messages ADD COLUMN automatic TEXT`,
    `ALTER TABLE messages ADD COLUMN files JSON`,
  ],
};
