import type { Migration } from './migration';

/** Changes of the set-up that are reverted by themselves unless what they touch is proven again in time. */
export const changeTrials: Migration = {
  name: '0052-change-trials',
  statements: [
    // What was changed may hold what is sealed, and the names of such columns begin so: they are sealed anew with the rest.
    `CREATE TABLE change_trials (
      id TEXT PRIMARY KEY, what TEXT NOT NULL, by_id TEXT NOT NULL, by_name TEXT NOT NULL, begun_at INTEGER NOT NULL,
      until_at INTEGER NOT NULL, sealed_rows TEXT NOT NULL, outside TEXT NOT NULL, needs TEXT NOT NULL,
      state TEXT NOT NULL, said TEXT, ended_at INTEGER, seen_at INTEGER)`,
    'CREATE INDEX change_trials_state ON change_trials (state)',
  ],
};
