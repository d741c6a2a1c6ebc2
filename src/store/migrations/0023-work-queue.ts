import type { Migration } from './migration';

/**
 * Leases have an age, runs about the same person take turns, and what fails in a way nobody foresaw is counted and set
 * aside. Findings above notice become alerts: with where to look and what to do, as they were when they began.
 */
export const workQueue: Migration = {
  name: '0023-work-queue',
  statements: [
    `ALTER TABLE outbox ADD COLUMN leased_at INTEGER`,
    `ALTER TABLE webhook_deliveries ADD COLUMN leased_at INTEGER`,
    `ALTER TABLE runs ADD COLUMN leased_at INTEGER`,
    `ALTER TABLE runs ADD COLUMN turn TEXT`,
    `CREATE INDEX runs_turn ON runs (turn, due_at, id) WHERE turn IS NOT NULL AND state IN ('due', 'waiting')`,
    `CREATE TABLE failed_work (queue TEXT NOT NULL, item_id TEXT NOT NULL, failures INTEGER NOT NULL, reason TEXT NOT NULL,
       first_at INTEGER NOT NULL, last_at INTEGER NOT NULL, aside_at INTEGER,
       ended_at INTEGER, ended_by TEXT, ended_how TEXT, PRIMARY KEY (queue, item_id))`,
    `CREATE INDEX failed_work_aside ON failed_work (aside_at) WHERE aside_at IS NOT NULL AND ended_at IS NULL`,
    `INSERT INTO failed_work (queue, item_id, failures, reason, first_at, last_at, aside_at)
       SELECT 'inbound', id, 1, coalesce(CASE WHEN json_valid(outcome) THEN outcome->>'$.reason' END, cause, 'not known'),
              received_at, coalesce(processed_at, received_at), coalesce(processed_at, received_at)
         FROM inbound_requests WHERE state = 'unreadable'`,
    `ALTER TABLE sheets ADD COLUMN failures INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE sheets ADD COLUMN failed_mark TEXT`,
    `ALTER TABLE sheets ADD COLUMN retry_at INTEGER`,
    `ALTER TABLE phone_systems ADD COLUMN zone TEXT`,
    `ALTER TABLE templates ADD COLUMN submitting JSON`,
    `ALTER TABLE readiness_history RENAME TO alerts`,
    `ALTER TABLE alerts ADD COLUMN href TEXT`,
    `ALTER TABLE alerts ADD COLUMN remedy TEXT`,
  ],
};
