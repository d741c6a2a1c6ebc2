import type { Migration } from './migration';

/** Calendar feeds with their events, and phone systems with their calls. */
export const feeds: Migration = {
  name: '0008-feeds',
  statements: [
    `CREATE TABLE feeds (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps (id), name TEXT NOT NULL,
      -- Whoever knows the address reads the calendar, so it is sealed.
      sealed_url TEXT NOT NULL, shown_url TEXT NOT NULL,
      period_minutes INTEGER NOT NULL, zone TEXT NOT NULL, country TEXT, day_time TEXT NOT NULL, offsets JSON NOT NULL,
      text TEXT NOT NULL, sender JSON NOT NULL, tags JSON NOT NULL, notify JSON NOT NULL,
      etag TEXT, synced_at INTEGER, wanted_at INTEGER, calendar_name TEXT, problem TEXT, problems JSON NOT NULL,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, disabled_at INTEGER)`,
    `CREATE TABLE feed_events (
      feed_id TEXT NOT NULL, event_key TEXT NOT NULL, title TEXT NOT NULL, starts_at INTEGER NOT NULL, all_day TEXT,
      phones JSON NOT NULL, emails JSON NOT NULL, fingerprint TEXT NOT NULL, state TEXT NOT NULL, reason TEXT,
      answer TEXT, answered_at INTEGER, answer_message_id TEXT, changed_at INTEGER NOT NULL,
      PRIMARY KEY (feed_id, event_key)) WITHOUT ROWID`,
    `CREATE INDEX feed_events_coming ON feed_events (feed_id, starts_at)`,
    `CREATE INDEX runs_reminded ON runs (ended_at) WHERE source = 'feed' AND state = 'done'`,
    `CREATE TABLE phone_systems (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps (id), name TEXT NOT NULL, slug TEXT NOT NULL, token TEXT NOT NULL UNIQUE,
      events JSON NOT NULL, answer TEXT NOT NULL, alert TEXT NOT NULL, alert_phones JSON NOT NULL, alert_mails JSON NOT NULL,
      country TEXT, channel_id TEXT NOT NULL, once_hours INTEGER NOT NULL,
      created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL, disabled_at INTEGER)`,
    `CREATE TABLE phone_calls (
      id TEXT PRIMARY KEY, system_id TEXT NOT NULL, call_id TEXT, received_at INTEGER NOT NULL, event TEXT, caller TEXT, called TEXT,
      body TEXT NOT NULL, answer_status INTEGER NOT NULL, state TEXT NOT NULL, reason TEXT, run_ids JSON NOT NULL)`,
    `CREATE INDEX phone_calls_of_system ON phone_calls (system_id, id)`,
    `CREATE INDEX phone_calls_answered ON phone_calls (system_id, caller, received_at) WHERE state = 'answered'`,
  ],
};
