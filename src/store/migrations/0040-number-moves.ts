import type { Migration } from './migration';

/** Numbers that move from one provider to another, and with which account a text was tried last. */
export const numberMoves: Migration = {
  name: '0040-number-moves',
  statements: [
    `CREATE TABLE number_moves (
       id TEXT PRIMARY KEY, channel_id TEXT NOT NULL, state TEXT NOT NULL,
       from_account TEXT NOT NULL, from_number TEXT NOT NULL, to_account TEXT NOT NULL, to_number TEXT NOT NULL,
       added INTEGER NOT NULL, other_token TEXT NOT NULL, cut_over_at INTEGER, said TEXT, turns JSON NOT NULL,
       created_at INTEGER NOT NULL, ended_at INTEGER) WITHOUT ROWID`,
    `CREATE UNIQUE INDEX number_moves_open ON number_moves (channel_id) WHERE ended_at IS NULL`,
    `CREATE UNIQUE INDEX number_moves_token ON number_moves (other_token)`,
    `CREATE INDEX number_moves_channel ON number_moves (channel_id)`,
    `ALTER TABLE outbox ADD COLUMN tried_with TEXT`,
  ],
};
