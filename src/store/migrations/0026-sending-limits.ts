import type { Migration } from './migration';

/**
 * What limits sending. An installation that sends already keeps the countries it has reached: what was right until now is
 * not stopped by a rule that came later.
 */
export const sendingLimits: Migration = {
  name: '0026-sending-limits',
  statements: [
    `CREATE TABLE sending_counts (counted_by TEXT NOT NULL, subject TEXT NOT NULL, slot INTEGER NOT NULL,
       amount INTEGER NOT NULL, PRIMARY KEY (counted_by, subject, slot)) WITHOUT ROWID`,
    `CREATE INDEX sending_counts_slot ON sending_counts (slot)`,
    `CREATE TABLE sending_stops (limit_name TEXT NOT NULL, subject TEXT NOT NULL, day INTEGER NOT NULL, orders INTEGER NOT NULL,
       held INTEGER NOT NULL, first_at INTEGER NOT NULL, last_at INTEGER NOT NULL, origin_name TEXT,
       PRIMARY KEY (limit_name, subject, day))`,
    `CREATE INDEX sending_stops_last ON sending_stops (last_at)`,
    `CREATE TABLE limit_lifts (limit_name TEXT NOT NULL, subject TEXT NOT NULL, until INTEGER NOT NULL, at INTEGER NOT NULL,
       by TEXT NOT NULL, PRIMARY KEY (limit_name, subject))`,
    `CREATE TABLE price_lists (account_id TEXT PRIMARY KEY, lines JSON NOT NULL, changed_at INTEGER NOT NULL, by TEXT NOT NULL)`,
    `CREATE TABLE verification_codes (id TEXT PRIMARY KEY, app_id TEXT, visitor_id TEXT, recipient TEXT NOT NULL,
       country TEXT, range TEXT NOT NULL, sealed_code TEXT, state TEXT NOT NULL, attempts INTEGER NOT NULL,
       created_at INTEGER NOT NULL, expires_at INTEGER NOT NULL, decided_at INTEGER, message_id TEXT NOT NULL)`,
    `CREATE INDEX verification_codes_recipient ON verification_codes (recipient, state)`,
    `CREATE INDEX verification_codes_range ON verification_codes (range, created_at)`,
    `CREATE INDEX verification_codes_country ON verification_codes (country, created_at)`,
    `CREATE INDEX verification_codes_message ON verification_codes (message_id)`,
    `ALTER TABLE channels ADD COLUMN destinations JSON`,
    `ALTER TABLE chat_visitors ADD COLUMN confirmed_at INTEGER`,
    // The phones of visitors who came before are what they were: people's.
    `UPDATE chat_visitors SET confirmed_at = created_at WHERE phone IS NOT NULL`,
    `INSERT INTO settings (name, value)
       SELECT 'countries-before', json_group_array(country) FROM
         (SELECT DISTINCT c.country FROM contacts c JOIN messages m ON m.contact_id = c.id AND m.direction = 'out'
            WHERE c.country IS NOT NULL AND m.state IN ('sent', 'delivered', 'read'))
       HAVING count(*) > 0`,
  ],
};
