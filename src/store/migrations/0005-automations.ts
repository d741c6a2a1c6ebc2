import type { Migration } from './migration';

/** Send hooks with what was posted to them, and the runs of automations, whose waiting steps survive a restart. */
export const automations: Migration = {
  name: '0005-automations',
  statements: [
    `ALTER TABLE messages ADD COLUMN tags JSON`,
    `CREATE TABLE send_hooks (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps (id), name TEXT NOT NULL,
      slug TEXT NOT NULL, token TEXT NOT NULL UNIQUE,
      -- Empty until somebody wrote the message: meanwhile posts are kept as samples.
      text TEXT NOT NULL, phone_field TEXT NOT NULL, country TEXT, sender JSON, media_field TEXT, tags JSON NOT NULL,
      guard TEXT NOT NULL, sealed_secret TEXT,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, disabled_at INTEGER, disabled_why TEXT,
      UNIQUE (app_id, name))`,
    `CREATE TABLE hook_posts (
      id TEXT PRIMARY KEY, hook_id TEXT NOT NULL, received_at INTEGER NOT NULL,
      method TEXT NOT NULL, path TEXT NOT NULL, headers JSON NOT NULL, body TEXT NOT NULL, remote_address TEXT,
      state TEXT NOT NULL, answer_status INTEGER NOT NULL, cause TEXT, reason TEXT, findings JSON,
      idempotency_key TEXT, run_id TEXT)`,
    `CREATE INDEX hook_posts_of_hook ON hook_posts (hook_id, id)`,
    `CREATE UNIQUE INDEX hook_posts_once ON hook_posts (hook_id, idempotency_key) WHERE idempotency_key IS NOT NULL`,
    `CREATE TABLE runs (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL, source TEXT NOT NULL, source_id TEXT NOT NULL, subject_id TEXT NOT NULL,
      steps JSON NOT NULL, next INTEGER NOT NULL, state TEXT NOT NULL, due_at INTEGER NOT NULL,
      attempts INTEGER NOT NULL, first_attempt_at INTEGER, results JSON NOT NULL,
      lease_owner TEXT, created_at INTEGER NOT NULL, ended_at INTEGER)`,
    `CREATE INDEX runs_due ON runs (due_at) WHERE state IN ('due', 'waiting') AND lease_owner IS NULL`,
    `CREATE INDEX runs_of_source ON runs (source_id, id)`,
    `CREATE INDEX runs_of_subject ON runs (subject_id)`,
  ],
};
