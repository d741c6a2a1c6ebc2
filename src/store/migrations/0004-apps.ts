import type { Migration } from './migration';

/** What app connections need: expiry of keys, filters, gates and pauses of webhook subscriptions. */
export const apps: Migration = {
  name: '0004-apps',
  statements: [
    `ALTER TABLE api_keys ADD COLUMN expires_at INTEGER`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN filter JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN gate JSON`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN paused_at INTEGER`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN paused_why TEXT`,
    `ALTER TABLE webhook_subscriptions ADD COLUMN previous_until INTEGER`,
    `CREATE INDEX webhook_deliveries_turn ON webhook_deliveries (subscription_id, state, due_at, id)`,
  ],
};
