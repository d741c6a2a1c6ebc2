import type { Migration } from './migration';

/**
 * Routes as a whole, in revisions; what was decided of each message and on which facts; and
 * conversations people work in: who has them, how they stand, what was noted.
 */
export const routing: Migration = {
  name: '0012-routing',
  statements: [
    `CREATE TABLE route_revisions (
      number INTEGER PRIMARY KEY, content JSON NOT NULL, published_at INTEGER NOT NULL, by TEXT NOT NULL, note TEXT NOT NULL)`,
    // One: what is being written.
    `CREATE TABLE route_drafts (
      id TEXT PRIMARY KEY, content JSON NOT NULL, changed_at INTEGER NOT NULL, by TEXT NOT NULL)`,
    // The one route there was told chosen apps of everything.
    `INSERT INTO route_revisions (number, content, published_at, by, note)
      SELECT 1, json_object('hours', json_array(), 'routes', json_array(json_object(
          'id', id, 'name', name, 'when', json_object('match', 'all', 'of', json_array()),
          'steps', (SELECT json_group_array(json_object('do', 'tell', 'app', value)) FROM json_each(app_ids)),
          'goesOn', json('false'), 'stopsOnReply', json('false'), 'off', json('false')))),
        changed_at, 'Windgap', 'As it was before there were several routes'
      FROM routes ORDER BY position LIMIT 1`,
    `DROP TABLE routes`,

    // Kept as they were known then, so that another revision can be asked what it would have done.
    `CREATE TABLE message_routings (
      message_id TEXT PRIMARY KEY, revision INTEGER NOT NULL, outcome TEXT NOT NULL, routes JSON NOT NULL, facts JSON NOT NULL,
      cause TEXT, at INTEGER NOT NULL) WITHOUT ROWID`,
    `CREATE INDEX message_routings_unrouted ON message_routings (at) WHERE outcome IN ('unrouted', 'held')`,
    `CREATE TABLE route_hits (
      route_id TEXT NOT NULL, day INTEGER NOT NULL, hits INTEGER NOT NULL, PRIMARY KEY (route_id, day)) WITHOUT ROWID`,
    `CREATE TABLE replays (
      id TEXT PRIMARY KEY, before JSON NOT NULL, after JSON NOT NULL, state TEXT NOT NULL, messages INTEGER NOT NULL, done INTEGER NOT NULL,
      summary JSON, created_at INTEGER NOT NULL, by TEXT NOT NULL, ended_at INTEGER)`,

    `ALTER TABLE runs ADD COLUMN memory JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE runs ADD COLUMN contact_id TEXT`,
    // Whether it waits for an answer, and whether one ends it.
    `ALTER TABLE runs ADD COLUMN awaiting INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE runs ADD COLUMN stops_on_reply INTEGER NOT NULL DEFAULT 0`,
    `CREATE INDEX runs_awaiting ON runs (contact_id) WHERE awaiting = 1 OR stops_on_reply = 1`,
    `CREATE INDEX runs_of_contact ON runs (contact_id, id) WHERE contact_id IS NOT NULL`,
    `ALTER TABLE record_actions ADD COLUMN by_route INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE sheets ADD COLUMN by_route INTEGER NOT NULL DEFAULT 0`,

    // 'quiet': nobody has answered yet what went out by itself.
    `ALTER TABLE conversations ADD COLUMN state TEXT NOT NULL DEFAULT 'quiet'`,
    `ALTER TABLE conversations ADD COLUMN assigned_to TEXT`,
    `ALTER TABLE conversations ADD COLUMN team TEXT`,
    `ALTER TABLE conversations ADD COLUMN last_inbound_at INTEGER`,
    `ALTER TABLE conversations ADD COLUMN closed_at INTEGER`,
    `ALTER TABLE conversations ADD COLUMN idle_noticed_at INTEGER`,
    `UPDATE conversations SET
      last_inbound_at = (SELECT max(created_at) FROM messages m WHERE m.conversation_id = conversations.id AND m.direction = 'in')`,
    `UPDATE conversations SET state = CASE WHEN last_direction = 'in' THEN 'open' ELSE 'waiting' END WHERE last_inbound_at IS NOT NULL`,
    `CREATE INDEX conversations_working ON conversations (state, last_message_at)`,
    `CREATE INDEX conversations_of_person ON conversations (assigned_to, state, last_message_at) WHERE assigned_to IS NOT NULL`,
    `CREATE TABLE conversation_notes (
      id TEXT PRIMARY KEY, conversation_id TEXT NOT NULL REFERENCES conversations (id), at INTEGER NOT NULL, by TEXT NOT NULL, kind TEXT NOT NULL, text TEXT NOT NULL)`,
    `CREATE INDEX conversation_notes_of ON conversation_notes (conversation_id, id)`,
    // Who looks at a conversation, or writes in it, as last heard.
    `CREATE TABLE conversation_presence (
      conversation_id TEXT NOT NULL, user_id TEXT NOT NULL, at INTEGER NOT NULL, writing INTEGER NOT NULL,
      PRIMARY KEY (conversation_id, user_id)) WITHOUT ROWID`,
    `ALTER TABLE users ADD COLUMN team TEXT`,
    `ALTER TABLE users ADD COLUMN may_start INTEGER NOT NULL DEFAULT 1`,
    `CREATE TABLE todos (
      id TEXT PRIMARY KEY, contact_id TEXT, title TEXT NOT NULL, why TEXT NOT NULL, ref TEXT, created_at INTEGER NOT NULL, by TEXT NOT NULL,
      done_at INTEGER, done_by TEXT)`,
    `CREATE INDEX todos_open ON todos (created_at) WHERE done_at IS NULL`,
  ],
};
