import type { Migration } from './migration';

/** Findings somebody has heard and does not want to be told of for a while. */
export const readiness: Migration = {
  name: '0015-readiness',
  statements: [
    `CREATE TABLE readiness_mutes (
      key TEXT PRIMARY KEY, reason TEXT NOT NULL, until INTEGER NOT NULL, at INTEGER NOT NULL, by TEXT NOT NULL)`,
    `CREATE INDEX audit_of_subject ON audit_entries (subject_id, id)`,
  ],
};
