import type { Migration } from './migration';

/** Somebody may be in several teams, channels and apps may belong to one, and a team may keep what is its own to its members. */
export const teams: Migration = {
  name: '0031-teams',
  statements: [
    `CREATE TABLE teams (name TEXT PRIMARY KEY, members_only INTEGER NOT NULL DEFAULT 0, created_at INTEGER NOT NULL)`,
    `CREATE TABLE team_members (team TEXT NOT NULL, user_id TEXT NOT NULL, PRIMARY KEY (team, user_id)) WITHOUT ROWID`,
    `CREATE INDEX teams_of ON team_members (user_id)`,
    `INSERT INTO teams (name, created_at) SELECT team, min(created_at) FROM users WHERE team IS NOT NULL GROUP BY team`,
    `INSERT INTO teams (name, created_at) SELECT team, min(last_message_at) FROM conversations
      WHERE team IS NOT NULL AND team NOT IN (SELECT name FROM teams) GROUP BY team`,
    `INSERT INTO team_members (team, user_id) SELECT team, id FROM users WHERE team IS NOT NULL`,
    `ALTER TABLE users DROP COLUMN team`,
    `ALTER TABLE channels ADD COLUMN team TEXT`,
    `ALTER TABLE apps ADD COLUMN team TEXT`,
  ],
};
