import type { Migration } from './migration';

/**
 * What every kind of channel needs: facts read from providers with their age, settings,
 * overlap while a secret is rotated, parts of long texts, the state of trunks, reply
 * windows, visitors of the web chat, carriers of contacts, profiles added in the interface.
 */
export const connect: Migration = {
  name: '0002-connect',
  statements: [
    `ALTER TABLE provider_accounts ADD COLUMN facts JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE provider_accounts ADD COLUMN facts_at INTEGER`,
    `ALTER TABLE provider_accounts ADD COLUMN settings JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE provider_accounts ADD COLUMN disabled_at INTEGER`,
    `ALTER TABLE provider_accounts ADD COLUMN sealed_previous TEXT`,
    `ALTER TABLE provider_accounts ADD COLUMN previous_until INTEGER`,
    `ALTER TABLE provider_numbers ADD COLUMN facts JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE provider_numbers ADD COLUMN purpose TEXT`,
    `ALTER TABLE provider_numbers ADD COLUMN gone_at INTEGER`,
    `ALTER TABLE channels ADD COLUMN settings JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE channels ADD COLUMN challenge_word TEXT`,
    `ALTER TABLE channels ADD COLUMN challenged_at INTEGER`,
    `ALTER TABLE inbound_requests ADD COLUMN account_id TEXT`,
    `ALTER TABLE outbox ADD COLUMN failures INTEGER NOT NULL DEFAULT 0`,
    // In the order in which it is claimed, so that a long queue costs no more than a short one.
    `DROP INDEX outbox_due`,
    `CREATE INDEX outbox_due ON outbox (state, channel_id, priority DESC, due_at, message_id)`,
    `ALTER TABLE contacts ADD COLUMN carrier TEXT`,
    `ALTER TABLE contacts ADD COLUMN carrier_at INTEGER`,

    `CREATE TABLE message_parts (
      message_id TEXT NOT NULL REFERENCES messages(id), sequence INTEGER NOT NULL, channel_id TEXT NOT NULL,
      provider_message_id TEXT NOT NULL, state TEXT NOT NULL, PRIMARY KEY (message_id, sequence))`,
    `CREATE INDEX message_parts_provider_id ON message_parts (channel_id, provider_message_id)`,
    `CREATE TABLE inbound_parts (
      id INTEGER PRIMARY KEY AUTOINCREMENT, channel_id TEXT NOT NULL, sender TEXT NOT NULL, reference INTEGER NOT NULL,
      total INTEGER NOT NULL, sequence INTEGER NOT NULL, text TEXT NOT NULL, inbound_request_id TEXT NOT NULL,
      received_at INTEGER NOT NULL, joined_at INTEGER)`,
    `CREATE INDEX inbound_parts_waiting ON inbound_parts (channel_id, sender, reference) WHERE joined_at IS NULL`,

    `CREATE TABLE trunk_states (
      account_id TEXT PRIMARY KEY REFERENCES provider_accounts(id), state TEXT NOT NULL, since INTEGER NOT NULL, cause TEXT,
      said TEXT, next_try_at INTEGER, sent_last_second INTEGER NOT NULL, unanswered INTEGER NOT NULL,
      accepted INTEGER NOT NULL, refused INTEGER NOT NULL, reconnects INTEGER NOT NULL, written_at INTEGER NOT NULL)`,
    `CREATE TABLE trunk_pdus (
      id INTEGER PRIMARY KEY AUTOINCREMENT, account_id TEXT NOT NULL, at INTEGER NOT NULL, way TEXT NOT NULL, command TEXT NOT NULL,
      status INTEGER NOT NULL, sequence INTEGER NOT NULL, fields JSON NOT NULL, message_id TEXT)`,
    `CREATE INDEX trunk_pdus_account ON trunk_pdus (account_id, id)`,

    `CREATE TABLE reply_windows (
      channel_id TEXT NOT NULL, contact_id TEXT NOT NULL, last_inbound_at INTEGER NOT NULL, PRIMARY KEY (channel_id, contact_id))`,
    `CREATE TABLE chat_visitors (
      id TEXT PRIMARY KEY, channel_id TEXT NOT NULL, key_hash TEXT NOT NULL UNIQUE, name TEXT, phone TEXT,
      consent_at INTEGER, consent_text TEXT, origin TEXT NOT NULL, created_at INTEGER NOT NULL, seen_at INTEGER NOT NULL)`,
    `CREATE INDEX chat_visitors_channel ON chat_visitors (channel_id, id)`,
    `CREATE TABLE carrier_gateways (
      carrier TEXT PRIMARY KEY, country TEXT NOT NULL, domain TEXT NOT NULL, local_part TEXT NOT NULL, changed_at INTEGER NOT NULL)`,
    `CREATE TABLE connector_profiles (
      id TEXT PRIMARY KEY, text TEXT NOT NULL, changed_at INTEGER NOT NULL, changed_by TEXT NOT NULL)`,
  ],
};
