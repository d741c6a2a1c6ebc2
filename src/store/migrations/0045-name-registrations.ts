import type { Migration } from './migration';

/** Where a sender name is registered, by country. */
export const nameRegistrations: Migration = {
  name: '0045-name-registrations',
  statements: [
    `CREATE TABLE name_registrations (
       number_id TEXT NOT NULL, country TEXT NOT NULL, state TEXT NOT NULL, since INTEGER NOT NULL, said TEXT, by TEXT NOT NULL,
       PRIMARY KEY (number_id, country)) WITHOUT ROWID`,
  ],
};
