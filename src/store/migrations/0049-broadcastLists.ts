import type { Migration } from './migration';

const minute = (row: string) => `${row}.state_at / 60000`;

/** One more that left, arrived or failed in a minute. */
const more = (what: 'left' | 'arrived' | 'failed', states: string, row = 'new') =>
  `INSERT INTO broadcast_minutes (broadcast_id, minute, what, n)
     SELECT ${row}.origin_id, ${minute(row)}, '${what}', 1
      WHERE ${row}.state IN (${states}) AND old.state NOT IN (${states})
   ON CONFLICT DO UPDATE SET n = n + 1`;

const LEFT = `'sent', 'delivered', 'read'`;
const ARRIVED = `'delivered', 'read'`;
const FAILED = `'failed'`;

/**
 * A list is written beside the one before and takes its place at once, however long it is; and what became of a broadcast is
 * counted by the minute.
 */
export const broadcastLists: Migration = {
  name: '0049-broadcast-lists',
  statements: [
    `ALTER TABLE broadcasts ADD COLUMN list_id TEXT`,
    `ALTER TABLE broadcasts ADD COLUMN starts_itself INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE send_hooks ADD COLUMN audience_id TEXT`,
    `ALTER TABLE hook_posts ADD COLUMN broadcast_id TEXT`,
    `UPDATE broadcasts SET list_id = id WHERE id IN (SELECT broadcast_id FROM broadcast_people)`,
    `ALTER TABLE broadcast_people RENAME COLUMN broadcast_id TO list_id`,
    `INSERT INTO settings (name, value) SELECT 'broadcast-rules', json_object('approval', json(value)) FROM settings
       WHERE name = 'broadcast-approval'`,
    `DELETE FROM settings WHERE name = 'broadcast-approval'`,
    `CREATE TABLE broadcast_minutes (
       broadcast_id TEXT NOT NULL, minute INTEGER NOT NULL, what TEXT NOT NULL, n INTEGER NOT NULL,
       PRIMARY KEY (broadcast_id, minute, what)) WITHOUT ROWID`,
    ...(
      [
        ['left', LEFT],
        ['arrived', ARRIVED],
        ['failed', FAILED],
      ] as const
    ).map(
      ([what, states]) =>
        `INSERT INTO broadcast_minutes (broadcast_id, minute, what, n)
           SELECT m.origin_id, ${minute('m')}, '${what}', count(*)
             FROM broadcast_recipients r JOIN messages m ON m.id = r.message_id
            WHERE m.state IN (${states}) GROUP BY 1, 2`,
    ),
    `CREATE TABLE broadcast_spend (
       broadcast_id TEXT NOT NULL, currency TEXT NOT NULL, micros INTEGER NOT NULL, n INTEGER NOT NULL,
       PRIMARY KEY (broadcast_id, currency)) WITHOUT ROWID`,
    `INSERT INTO broadcast_spend (broadcast_id, currency, micros, n)
       SELECT m.origin_id, m.price_currency, sum(m.price_micros), count(*)
         FROM broadcast_recipients r JOIN messages m ON m.id = r.message_id
        WHERE m.price_micros IS NOT NULL AND m.price_currency IS NOT NULL GROUP BY 1, 2`,
    // A provider may tell another price later than the first: the difference counts.
    `CREATE TRIGGER broadcasts_cost AFTER UPDATE OF price_micros, price_currency ON messages
       WHEN new.origin_kind = 'broadcast' AND new.price_micros IS NOT NULL AND new.price_currency IS NOT NULL
         AND new.price_micros IS NOT old.price_micros
       BEGIN
         INSERT INTO broadcast_spend (broadcast_id, currency, micros, n)
           VALUES (new.origin_id, new.price_currency, new.price_micros - coalesce(old.price_micros, 0),
             old.price_micros IS NULL)
         ON CONFLICT DO UPDATE SET micros = micros + excluded.micros, n = n + excluded.n;
       END`,
    `CREATE TRIGGER broadcasts_are_timed AFTER UPDATE OF state ON messages
       WHEN new.origin_kind = 'broadcast' AND new.state <> old.state
       BEGIN ${more('left', LEFT)}; ${more('arrived', ARRIVED)}; ${more('failed', FAILED)}; END`,
  ],
};
