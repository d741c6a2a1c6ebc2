import type { Migration } from './migration';

/** Telephone numbers nothing gets to at present: since when, and how often it was tried. */
export const missedDeliveries: Migration = {
  name: '0046-missed-deliveries',
  statements: [
    `CREATE TABLE missed_deliveries (
       value TEXT PRIMARY KEY, times INTEGER NOT NULL, first_at INTEGER NOT NULL, last_at INTEGER NOT NULL) WITHOUT ROWID`,
  ],
};
