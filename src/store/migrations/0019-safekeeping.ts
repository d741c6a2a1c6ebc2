import type { Migration } from './migration';

/**
 * What keeps one bad item from harming the others: posts with the record that was read of
 * them, calendars with when reading one began, and sheets with what tells their rows apart
 * and what is held until somebody decides.
 */
export const safekeeping: Migration = {
  name: '0019-safekeeping',
  statements: [
    `ALTER TABLE hook_posts ADD COLUMN record JSON`,
    `ALTER TABLE feeds ADD COLUMN read_began_at INTEGER`,
    `ALTER TABLE sheets ADD COLUMN header JSON`,
    `ALTER TABLE sheets ADD COLUMN identity JSON`,
    `ALTER TABLE sheets ADD COLUMN known_rows INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE sheets ADD COLUMN held JSON`,
    `ALTER TABLE sheets ADD COLUMN decision JSON`,
    `ALTER TABLE sheets ADD COLUMN holds_jumps INTEGER NOT NULL DEFAULT 1`,
    `CREATE INDEX inbound_requests_aside ON inbound_requests (channel_id, id) WHERE state = 'unreadable'`,
    `UPDATE sheets SET known_rows = (SELECT count(*) FROM sheet_rows WHERE sheet_id = sheets.id)`,
  ],
};
