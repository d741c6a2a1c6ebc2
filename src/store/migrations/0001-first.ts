import type { Migration } from './migration';

/**
 * Times are epoch milliseconds UTC; money is integer micro-units beside an ISO 4217
 * code; ids are sortable and prefixed by type, so the primary key is also the order.
 */
export const first: Migration = {
  name: '0001-first',
  statements: [
    `CREATE TABLE settings (name TEXT PRIMARY KEY, value JSON NOT NULL)`,

    `CREATE TABLE users (
      id TEXT PRIMARY KEY, email TEXT NOT NULL UNIQUE, name TEXT NOT NULL, role TEXT NOT NULL,
      password_hash TEXT NOT NULL, session_version INTEGER NOT NULL DEFAULT 1,
      created_at INTEGER NOT NULL, disabled_at INTEGER)`,
    `CREATE TABLE sign_in_failures (id INTEGER PRIMARY KEY AUTOINCREMENT, subject TEXT NOT NULL, at INTEGER NOT NULL)`,
    `CREATE INDEX sign_in_failures_subject ON sign_in_failures (subject, at)`,
    `CREATE TABLE audit_entries (
      id TEXT PRIMARY KEY, at INTEGER NOT NULL, actor_kind TEXT NOT NULL, actor_id TEXT NOT NULL, actor_name TEXT NOT NULL,
      action TEXT NOT NULL, subject_id TEXT NOT NULL, summary TEXT NOT NULL, details JSON)`,

    `CREATE TABLE provider_accounts (
      id TEXT PRIMARY KEY, connector TEXT NOT NULL, name TEXT NOT NULL UNIQUE, sealed_credentials TEXT NOT NULL,
      state TEXT NOT NULL, cause TEXT, checked_at INTEGER, remote_name TEXT,
      balance_micros INTEGER, balance_currency TEXT, balance_at INTEGER,
      created_at INTEGER NOT NULL, credentials_changed_at INTEGER NOT NULL)`,
    `CREATE TABLE provider_numbers (
      id TEXT PRIMARY KEY, account_id TEXT NOT NULL REFERENCES provider_accounts(id), remote_id TEXT NOT NULL,
      address TEXT NOT NULL, kind TEXT NOT NULL, country TEXT, abilities JSON NOT NULL,
      inbound_url TEXT, inbound_method TEXT, inbound_fallback TEXT, seen_at INTEGER NOT NULL,
      UNIQUE (account_id, remote_id))`,
    `CREATE TABLE channels (
      id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE, kind TEXT NOT NULL,
      account_id TEXT NOT NULL REFERENCES provider_accounts(id), number_id TEXT NOT NULL UNIQUE REFERENCES provider_numbers(id),
      address TEXT NOT NULL, default_country TEXT, pace REAL NOT NULL, inbound_token TEXT NOT NULL UNIQUE,
      handed_over_at INTEGER, handed_over_how TEXT, created_at INTEGER NOT NULL)`,
    `CREATE TABLE hop_proofs (
      subject_id TEXT NOT NULL, hop TEXT NOT NULL, state TEXT NOT NULL, since INTEGER NOT NULL, changed_at INTEGER NOT NULL,
      evidence_at INTEGER, evidence_ref TEXT, cause TEXT, note TEXT, PRIMARY KEY (subject_id, hop))`,

    `CREATE TABLE contacts (
      id TEXT PRIMARY KEY, name TEXT, country TEXT, created_at INTEGER NOT NULL)`,
    `CREATE TABLE contact_identities (
      kind TEXT NOT NULL, value TEXT NOT NULL, contact_id TEXT NOT NULL REFERENCES contacts(id), PRIMARY KEY (kind, value))`,
    `CREATE INDEX contact_identities_contact ON contact_identities (contact_id)`,
    `CREATE TABLE conversations (
      id TEXT PRIMARY KEY, contact_id TEXT NOT NULL UNIQUE REFERENCES contacts(id), channel_id TEXT NOT NULL REFERENCES channels(id),
      last_message_at INTEGER NOT NULL, last_text TEXT NOT NULL, last_direction TEXT NOT NULL, unread INTEGER NOT NULL DEFAULT 0)`,
    `CREATE INDEX conversations_recent ON conversations (last_message_at)`,
    `CREATE TABLE messages (
      id TEXT PRIMARY KEY, direction TEXT NOT NULL, conversation_id TEXT NOT NULL REFERENCES conversations(id),
      contact_id TEXT NOT NULL, channel_id TEXT NOT NULL,
      sender TEXT NOT NULL, recipient TEXT NOT NULL, text TEXT NOT NULL, encoding TEXT NOT NULL, parts INTEGER NOT NULL,
      state TEXT NOT NULL, state_at INTEGER NOT NULL, cause TEXT,
      provider_message_id TEXT, price_micros INTEGER, price_currency TEXT,
      origin_kind TEXT NOT NULL, origin_id TEXT, origin_name TEXT, in_reply_to TEXT, inbound_request_id TEXT, created_at INTEGER NOT NULL)`,
    `CREATE UNIQUE INDEX messages_provider_id ON messages (channel_id, direction, provider_message_id) WHERE provider_message_id IS NOT NULL`,
    `CREATE INDEX messages_conversation ON messages (conversation_id, id)`,
    `CREATE INDEX messages_reply ON messages (in_reply_to) WHERE in_reply_to IS NOT NULL`,
    `CREATE INDEX messages_state ON messages (state, id)`,
    `CREATE INDEX messages_channel ON messages (channel_id, id)`,
    `CREATE TABLE message_events (
      id INTEGER PRIMARY KEY AUTOINCREMENT, message_id TEXT NOT NULL REFERENCES messages(id), kind TEXT NOT NULL,
      at INTEGER NOT NULL, recorded_at INTEGER NOT NULL, attempt INTEGER, cause TEXT, detail JSON,
      exchange_id TEXT, inbound_request_id TEXT)`,
    `CREATE INDEX message_events_message ON message_events (message_id)`,
    `CREATE TABLE outbox (
      message_id TEXT PRIMARY KEY REFERENCES messages(id), channel_id TEXT NOT NULL, priority INTEGER NOT NULL,
      state TEXT NOT NULL, due_at INTEGER NOT NULL, attempts INTEGER NOT NULL DEFAULT 0, first_attempt_at INTEGER, lease_owner TEXT)`,
    `CREATE INDEX outbox_due ON outbox (state, channel_id, priority, due_at)`,

    `CREATE TABLE inbound_requests (
      id TEXT PRIMARY KEY, channel_id TEXT NOT NULL, received_at INTEGER NOT NULL, method TEXT NOT NULL, path TEXT NOT NULL,
      query TEXT NOT NULL, headers JSON NOT NULL, body BLOB NOT NULL, remote_address TEXT,
      signature TEXT NOT NULL, answer_status INTEGER NOT NULL, state TEXT NOT NULL, cause TEXT, outcome JSON, processed_at INTEGER)`,
    `CREATE INDEX inbound_requests_waiting ON inbound_requests (id) WHERE state = 'stored'`,
    `CREATE INDEX inbound_requests_channel ON inbound_requests (channel_id, id)`,
    `CREATE TABLE unmatched_receipts (
      id INTEGER PRIMARY KEY AUTOINCREMENT, channel_id TEXT NOT NULL, provider_message_id TEXT NOT NULL, reference TEXT,
      receipt JSON NOT NULL, inbound_request_id TEXT NOT NULL, received_at INTEGER NOT NULL, matched_at INTEGER)`,
    `CREATE INDEX unmatched_receipts_waiting ON unmatched_receipts (channel_id, provider_message_id) WHERE matched_at IS NULL`,
    `CREATE INDEX unmatched_receipts_reference ON unmatched_receipts (reference) WHERE matched_at IS NULL`,
    `CREATE TABLE exchanges (
      id TEXT PRIMARY KEY, purpose TEXT NOT NULL, subject_id TEXT NOT NULL, at INTEGER NOT NULL, elapsed_ms INTEGER,
      request JSON NOT NULL, response JSON, cause TEXT)`,
    `CREATE INDEX exchanges_subject ON exchanges (subject_id, id)`,

    `CREATE TABLE apps (id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE, description TEXT NOT NULL, created_at INTEGER NOT NULL)`,
    `CREATE TABLE api_keys (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps(id), name TEXT NOT NULL, hint TEXT NOT NULL, hash TEXT NOT NULL UNIQUE,
      scopes JSON NOT NULL, created_at INTEGER NOT NULL, last_used_at INTEGER, last_used_from TEXT, revoked_at INTEGER)`,
    `CREATE TABLE webhook_subscriptions (
      id TEXT PRIMARY KEY, app_id TEXT NOT NULL REFERENCES apps(id), url TEXT NOT NULL, events JSON NOT NULL,
      sealed_secrets TEXT NOT NULL, created_at INTEGER NOT NULL, disabled_at INTEGER)`,
    `CREATE TABLE webhook_deliveries (
      id TEXT PRIMARY KEY, subscription_id TEXT NOT NULL REFERENCES webhook_subscriptions(id), event_id TEXT NOT NULL, event_type TEXT NOT NULL,
      message_id TEXT, ordering_key TEXT NOT NULL, body TEXT NOT NULL, state TEXT NOT NULL, cause TEXT,
      attempts INTEGER NOT NULL DEFAULT 0, first_attempt_at INTEGER, due_at INTEGER NOT NULL, lease_owner TEXT,
      last_status INTEGER, created_at INTEGER NOT NULL, delivered_at INTEGER)`,
    `CREATE INDEX webhook_deliveries_due ON webhook_deliveries (state, due_at)`,
    `CREATE INDEX webhook_deliveries_order ON webhook_deliveries (subscription_id, ordering_key, id) WHERE state IN ('due', 'leased')`,
    `CREATE INDEX webhook_deliveries_message ON webhook_deliveries (message_id)`,
    `CREATE INDEX webhook_deliveries_subscription ON webhook_deliveries (subscription_id, id)`,

    `CREATE TABLE routes (
      id TEXT PRIMARY KEY, position INTEGER NOT NULL, name TEXT NOT NULL, app_ids JSON NOT NULL, changed_at INTEGER NOT NULL)`,
    `CREATE TABLE idempotency_records (
      owner_id TEXT NOT NULL, key TEXT NOT NULL, body_hash TEXT NOT NULL, status INTEGER NOT NULL, response TEXT NOT NULL,
      created_at INTEGER NOT NULL, PRIMARY KEY (owner_id, key))`,
    `CREATE INDEX idempotency_records_age ON idempotency_records (created_at)`,
    `CREATE TABLE changes (id INTEGER PRIMARY KEY AUTOINCREMENT, at INTEGER NOT NULL, topic TEXT NOT NULL, subject_id TEXT NOT NULL)`,
  ],
};
