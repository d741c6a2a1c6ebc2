import type { Migration } from './migration';

/** Views that were kept of the log alone are kept of any list, each under the path of its page. */
export const listViews: Migration = {
  name: '0020-list-views',
  statements: [
    `CREATE TABLE list_views (
      id TEXT PRIMARY KEY, page TEXT NOT NULL, name TEXT NOT NULL, query TEXT NOT NULL, created_at INTEGER NOT NULL,
      by TEXT NOT NULL, UNIQUE (page, name))`,
    `INSERT INTO list_views (id, page, name, query, created_at, by)
      SELECT id, '/watch/messages', name, query, created_at, by FROM log_views`,
    `DROP TABLE log_views`,
  ],
};
