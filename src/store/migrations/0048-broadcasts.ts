import type { Migration } from './migration';

/** One recipient more or fewer where they stand. */
const count = (row: 'new' | 'old', by: 1 | -1) =>
  `INSERT INTO broadcast_counts (broadcast_id, state, reason, channel_id, country, n)
     VALUES (${row}.broadcast_id, ${row}.state, ${row}.reason, ${row}.channel_id, ${row}.country, ${by})
   ON CONFLICT DO UPDATE SET n = n + ${by}`;

/**
 * Broadcasts. Where each recipient stands follows the message, and the counts follow the recipients, by triggers: whoever
 * changes a message by whatever statement keeps them right, in the same unit.
 */
export const broadcasts: Migration = {
  name: '0048-broadcasts',
  statements: [
    `CREATE TABLE broadcasts (
       id TEXT PRIMARY KEY, name TEXT NOT NULL, state TEXT NOT NULL, version INTEGER NOT NULL, definition JSON NOT NULL,
       created_at INTEGER NOT NULL, created_by TEXT NOT NULL, created_by_name TEXT NOT NULL, changed_at INTEGER NOT NULL,
       plan JSON, plan_problem TEXT, started_by TEXT, started_by_name TEXT, reason TEXT, approved_by TEXT,
       approved_by_name TEXT, started_at INTEGER, ended_at INTEGER, phase TEXT NOT NULL, held JSON, judged_from JSON,
       shown_to JSON, ref TEXT) WITHOUT ROWID`,
    `CREATE UNIQUE INDEX broadcasts_ref ON broadcasts (created_by, ref) WHERE ref IS NOT NULL`,
    `CREATE INDEX broadcasts_state ON broadcasts (state)`,
    `CREATE TABLE broadcast_recipients (
       broadcast_id TEXT NOT NULL, seq INTEGER NOT NULL, contact_id TEXT, fields JSON, kind TEXT, scope TEXT, value TEXT,
       state TEXT NOT NULL, reason TEXT NOT NULL, said TEXT, channel_id TEXT NOT NULL, country TEXT NOT NULL,
       due_at INTEGER, language TEXT, parts INTEGER, price_micros INTEGER, price_currency TEXT, message_id TEXT,
       replied_at INTEGER, pressed TEXT, opted_out_at INTEGER, PRIMARY KEY (broadcast_id, seq))`,
    `CREATE INDEX broadcast_recipients_due ON broadcast_recipients (broadcast_id, state, channel_id, due_at, seq)`,
    `CREATE UNIQUE INDEX broadcast_recipients_message ON broadcast_recipients (message_id) WHERE message_id IS NOT NULL`,
    // Nobody is given the same broadcast twice at one address.
    `CREATE UNIQUE INDEX broadcast_recipients_address ON broadcast_recipients (broadcast_id, kind, scope, value)
       WHERE state <> 'left-out'`,
    `CREATE TABLE broadcast_counts (
       broadcast_id TEXT NOT NULL, state TEXT NOT NULL, reason TEXT NOT NULL, channel_id TEXT NOT NULL,
       country TEXT NOT NULL, n INTEGER NOT NULL,
       PRIMARY KEY (broadcast_id, state, reason, channel_id, country)) WITHOUT ROWID`,
    `CREATE TABLE broadcast_people (
       broadcast_id TEXT NOT NULL, line INTEGER NOT NULL, address TEXT NOT NULL, fields JSON NOT NULL,
       PRIMARY KEY (broadcast_id, line))`,
    `CREATE TRIGGER recipients_are_counted AFTER INSERT ON broadcast_recipients BEGIN ${count('new', 1)}; END`,
    `CREATE TRIGGER recipients_are_recounted
       AFTER UPDATE OF state, reason, channel_id, country ON broadcast_recipients
       WHEN new.state <> old.state OR new.reason <> old.reason OR new.channel_id <> old.channel_id
         OR new.country <> old.country
       BEGIN ${count('old', -1)}; ${count('new', 1)}; END`,
    // Recipients of a plan that is made anew; those that are forgotten with the years stay counted.
    `CREATE TRIGGER recipients_are_uncounted AFTER DELETE ON broadcast_recipients
       WHEN (SELECT state FROM broadcasts WHERE id = old.broadcast_id) IN ('draft', 'planning')
       BEGIN ${count('old', -1)}; END`,
    `CREATE TRIGGER recipients_follow_messages AFTER UPDATE OF state, cause ON messages
       WHEN new.origin_kind = 'broadcast' AND (new.state <> old.state OR new.cause IS NOT old.cause)
       BEGIN
         UPDATE broadcast_recipients SET state = new.state, reason = coalesce(new.cause, '')
          WHERE message_id = new.id;
       END`,
    `CREATE TABLE broadcast_answers (
       broadcast_id TEXT NOT NULL, what TEXT NOT NULL, label TEXT NOT NULL, n INTEGER NOT NULL,
       PRIMARY KEY (broadcast_id, what, label)) WITHOUT ROWID`,
    ...(['replied_at', 'pressed', 'opted_out_at'] as const).map(
      (column) => `CREATE TRIGGER recipients_${column} AFTER UPDATE OF ${column} ON broadcast_recipients
       WHEN old.${column} IS NULL AND new.${column} IS NOT NULL
       BEGIN
         INSERT INTO broadcast_answers (broadcast_id, what, label, n)
           VALUES (new.broadcast_id, '${column}', ${column === 'pressed' ? 'new.pressed' : "''"}, 1)
         ON CONFLICT DO UPDATE SET n = n + 1;
       END`,
    ),
    // Whoever writes next after it, or presses an answer below it, answers it; messages know their people through all merging.
    `CREATE TRIGGER recipients_are_heard AFTER INSERT ON messages
       WHEN new.direction = 'in' AND EXISTS (SELECT 1 FROM broadcasts WHERE started_at IS NOT NULL)
       BEGIN
         UPDATE broadcast_recipients
            SET replied_at = coalesce(replied_at, new.created_at),
                pressed = coalesce(pressed, (SELECT label.value FROM messages asked, json_each(asked.choices, '$.labels') label
                  WHERE asked.id = broadcast_recipients.message_id AND lower(label.value) = lower(trim(new.text))))
          WHERE message_id = coalesce(new.in_reply_to, (SELECT id FROM messages
            WHERE conversation_id = new.conversation_id AND direction = 'out' AND id < new.id ORDER BY id DESC LIMIT 1));
       END`,
    // Whoever opts out within three days of one opts out upon it.
    `CREATE TRIGGER recipients_opt_out AFTER INSERT ON consent_entries WHEN new.what = 'withdrawn'
       BEGIN
         UPDATE broadcast_recipients SET opted_out_at = new.at
          WHERE opted_out_at IS NULL AND message_id = (SELECT id FROM messages
            WHERE contact_id = new.contact_id AND origin_kind = 'broadcast' AND created_at > new.at - 259200000
            ORDER BY id DESC LIMIT 1);
       END`,
  ],
};
