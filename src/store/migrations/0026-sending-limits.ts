import type { Migration } from './migration';

const SLOT = 600_000;
const HOUR = 3_600_000;
const DAY = 86_400_000;

/** What left for telephones in the two weeks before the latest of it. */
const LATELY = `FROM messages WHERE direction = 'out' AND recipient LIKE '+%'
  AND created_at > (SELECT max(created_at) FROM messages) - ${14 * DAY}`;

/** Counts as they would have been made, so that what is usual is known from the first hour on. */
const counted = (by: string, subject: string, where = '') =>
  `INSERT INTO sending_counts (counted_by, subject, slot, amount)
     SELECT '${by}', ${subject}, created_at / ${SLOT} * ${SLOT}, sum(parts) ${LATELY} ${where} GROUP BY 2, 3`;

/** Three times the most that one place ever got in so long, where that is more than what a new installation allows. */
const observed = (name: string, usual: number, subject: string, span: number, where = '') =>
  `'${name}', max(${usual}, (SELECT 3 * coalesce(max(n), 0) FROM
     (SELECT sum(parts) AS n ${LATELY} ${where} GROUP BY ${subject}, created_at / ${span})))`;

const RANGE = 'substr(recipient, 1, length(recipient) - 4)';

/**
 * What limits sending. An installation that sends already keeps the countries it has reached, and its limits begin well
 * above what it sent: what was right until now is not stopped by a rule that came later.
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
    counted('range', RANGE),
    counted('country', 'country', 'AND country IS NOT NULL'),
    `INSERT INTO settings (name, value)
       SELECT 'sending-limits', json_object(
         ${observed('recipient-hour', 40, 'recipient', HOUR)},
         ${observed('recipient-day', 120, 'recipient', DAY)},
         ${observed('range-hour', 600, RANGE, HOUR)},
         ${observed('country-day', 2000, 'country', DAY, 'AND country IS NOT NULL')},
         ${observed('app-hour', 20_000, 'origin_id', HOUR, `AND origin_kind = 'app'`)})
        WHERE EXISTS (SELECT 1 ${LATELY})`,
  ],
};
