import type { Migration } from './migration';

/**
 * The rank of the event that decides a message's state, so that a later one is judged
 * without reading those before; files that go with texts.
 */
export const messages: Migration = {
  name: '0003-messages',
  statements: [
    `ALTER TABLE messages ADD COLUMN media JSON`,
    `ALTER TABLE messages ADD COLUMN state_rank INTEGER NOT NULL DEFAULT 0`,
    `UPDATE messages SET state_rank = CASE state
      WHEN 'sent' THEN 1000000000 WHEN 'failed' THEN 2000000000 WHEN 'delivered' THEN 3000000000 WHEN 'read' THEN 4000000000
      ELSE coalesce((
        SELECT max(coalesce(attempt, 0) * 10 + CASE kind WHEN 'attempted' THEN 1 WHEN 'uncertain' THEN 2 WHEN 'deferred' THEN 3 WHEN 'requeued' THEN 4 ELSE 0 END)
        FROM message_events WHERE message_id = messages.id), 0) END`,
  ],
};
