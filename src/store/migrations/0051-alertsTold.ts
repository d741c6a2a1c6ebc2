import type { Migration } from './migration';

/** Who is told of alerts, what they were told, who sees to one, and when work is done on something. */
export const alertsTold: Migration = {
  name: '0051-alerts-told',
  statements: [
    'ALTER TABLE alerts ADD COLUMN taken_at INTEGER',
    'ALTER TABLE alerts ADD COLUMN taken_by TEXT',
    `CREATE TABLE alert_rules (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, content TEXT NOT NULL, enabled INTEGER NOT NULL, changed_at INTEGER NOT NULL,
      changed_by TEXT NOT NULL)`,
    `CREATE TABLE alert_tellings (
      id INTEGER PRIMARY KEY AUTOINCREMENT, alert_id INTEGER NOT NULL, rule_id TEXT NOT NULL, rule_name TEXT NOT NULL,
      what TEXT NOT NULL, way TEXT NOT NULL, at INTEGER NOT NULL, said TEXT NOT NULL, run_id TEXT)`,
    'CREATE INDEX alert_tellings_alert ON alert_tellings (alert_id)',
    'CREATE INDEX alert_tellings_time ON alert_tellings (at)',
    'CREATE INDEX alerts_ended ON alerts (closed_at)',
    `CREATE TABLE work_windows (
      id TEXT PRIMARY KEY, from_at INTEGER NOT NULL, until_at INTEGER NOT NULL, subject_id TEXT, subject_name TEXT,
      reason TEXT NOT NULL, by TEXT NOT NULL, at INTEGER NOT NULL)`,
    // What is broken for ten minutes is told to those who can mend it, from the day on which mail can be sent.
    `INSERT INTO alert_rules (id, name, content, enabled, changed_at, changed_by) VALUES ('alr_first', 'What is broken, to administrators',
      '{"from":"error","ways":[{"by":"mail","to":"administrators"}],"afterMinutes":10}', 1, 0, 'Windgap')`,
  ],
};
