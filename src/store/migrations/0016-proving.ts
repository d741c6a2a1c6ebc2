import type { Migration } from './migration';

/** What readiness found and when, delivery tests with their runs, drills, and orders that were refused at once. */
export const proving: Migration = {
  name: '0016-proving',
  statements: [
    // One row per part of the set-up that is examined by itself, so that a change costs only its part.
    `CREATE TABLE readiness_parts (
      part TEXT PRIMARY KEY, findings TEXT NOT NULL, at INTEGER NOT NULL)`,
    `CREATE TABLE readiness_history (
      id INTEGER PRIMARY KEY AUTOINCREMENT, key TEXT NOT NULL, code TEXT NOT NULL, subject_id TEXT NOT NULL,
      subject_name TEXT NOT NULL, severity TEXT NOT NULL, problem TEXT NOT NULL, opened_at INTEGER NOT NULL, closed_at INTEGER)`,
    `CREATE INDEX readiness_history_open ON readiness_history (key) WHERE closed_at IS NULL`,
    `CREATE INDEX readiness_history_time ON readiness_history (opened_at)`,
    `CREATE TABLE delivery_tests (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, content TEXT NOT NULL, every_minutes INTEGER, guards_publishing INTEGER NOT NULL,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, changed_by TEXT NOT NULL, archived_at INTEGER)`,
    // The content is copied: a run stays what it was when the test is changed.
    `CREATE TABLE delivery_test_runs (
      id TEXT PRIMARY KEY, test_id TEXT NOT NULL, name TEXT NOT NULL, content TEXT NOT NULL, why TEXT NOT NULL, batch TEXT,
      asked_by TEXT NOT NULL, asked_at INTEGER NOT NULL, state TEXT NOT NULL, started_at INTEGER, ended_at INTEGER,
      rounds TEXT NOT NULL, problem TEXT)`,
    `CREATE INDEX delivery_test_runs_of_test ON delivery_test_runs (test_id, id)`,
    `CREATE INDEX delivery_test_runs_open ON delivery_test_runs (state) WHERE state IN ('waiting', 'running')`,
    `CREATE INDEX delivery_test_runs_batch ON delivery_test_runs (batch) WHERE batch IS NOT NULL`,
    `CREATE TABLE drills (
      id TEXT PRIMARY KEY, fault TEXT NOT NULL, level TEXT NOT NULL, started_at INTEGER NOT NULL, by TEXT NOT NULL,
      guesses TEXT NOT NULL, hints INTEGER NOT NULL, ended_at INTEGER, ending TEXT, score INTEGER)`,
    // An order refused at once becomes no message; that it was refused is evidence all the same.
    `CREATE TABLE refused_orders (
      id INTEGER PRIMARY KEY AUTOINCREMENT, at INTEGER NOT NULL, channel_id TEXT, recipient TEXT, cause TEXT NOT NULL,
      said TEXT NOT NULL, origin_kind TEXT NOT NULL, origin_id TEXT NOT NULL, origin_name TEXT NOT NULL)`,
    `CREATE INDEX refused_orders_time ON refused_orders (at)`,
    `CREATE TABLE bench_scenarios (id TEXT PRIMARY KEY, name TEXT NOT NULL, faults TEXT NOT NULL, handsets TEXT NOT NULL, by TEXT NOT NULL, at INTEGER NOT NULL)`,
  ],
};
