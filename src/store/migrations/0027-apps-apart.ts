import type { Migration } from './migration';

/**
 * Apps see what they sent or were told. Keys and subscriptions that exist go on seeing everything, and stay with the
 * version of the API they were written for.
 */
export const appsApart: Migration = {
  name: '0027-apps-apart',
  statements: [
    `CREATE TABLE told_apps (app_id TEXT NOT NULL, message_id TEXT NOT NULL, PRIMARY KEY (app_id, message_id)) WITHOUT ROWID`,
    `INSERT OR IGNORE INTO told_apps (app_id, message_id)
       SELECT s.app_id, d.message_id FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
        WHERE d.message_id IS NOT NULL`,
    `ALTER TABLE api_keys ADD COLUMN api_version TEXT NOT NULL DEFAULT '2026-05-01'`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN api_version TEXT NOT NULL DEFAULT '2026-05-01'`,
    `UPDATE api_keys SET scopes = json_insert(scopes, '$[#]', 'messages:all')
      WHERE EXISTS (SELECT 1 FROM json_each(scopes) WHERE value IN ('messages:read', 'conversations:read'))`,
    `UPDATE webhook_subscriptions SET filter = json_set(filter, '$.allApps', json('true')) WHERE json_valid(filter)`,
  ],
};
