/** The stored tables, and the rows they hold: described here once. The models and the check of the migrations follow. */

import type { ChannelKind } from '../../core/connect/channelKinds';
import type { AccountFacts, NumberFacts } from '../../core/connect/facts';
import type { Turn } from '../../core/connect/numberMove';
import type { NumberPurpose } from '../../core/connect/purposes';
import type { CauseCode } from '../../core/delivery/causes';
import type { Choices } from '../../core/delivery/choices';
import type { FallbackScope } from '../../core/delivery/fallback';
import type { MessageEventKind, MessageState } from '../../core/delivery/lifecycle';
import type { Media, MessageFile } from '../../core/delivery/media';
import type { AllowedDestinations } from '../../core/limits/destination';
import type { CircuitBreaker } from '../../core/pacing/circuitBreaker';
import type { HopName } from '../../core/proof/hops';
import type { ProofState } from '../../core/proof/proofs';
import type { Encoding } from '../../core/text/measure';
import type { MessageTemplate } from './composeRows';
import { bytes, define, generated, json, orNull, type RowOf, real, text, whole } from './definition';

export * from './automationRows';
export * from './broadcastRows';
export * from './composeRows';
export * from './contactRows';
export * from './limitRows';
export * from './peopleRows';
export * from './provingRows';
export * from './routingRows';
export * from './workRows';

export const audit = define('audit_entries', ['id'], {
  id: text(),
  at: whole(),
  actor_kind: text(),
  actor_id: text(),
  actor_name: text(),
  action: text(),
  subject_id: text(),
  summary: text(),
  details: orNull(json<Record<string, unknown>>()),
  /** Its place in the chain; null for what was written before there was one. */
  place: orNull(whole()),
  /** Null where what names people was forgotten. */
  salt: orNull(text()),
  personal: orNull(text()),
  digest: orNull(text()),
});
export type AuditRow = RowOf<typeof audit>;

export const accounts = define('provider_accounts', ['id'], {
  id: text(),
  connector: text(),
  name: text(),
  sealed_credentials: text(),
  state: text<'accepted' | 'refused' | 'unreachable'>(),
  cause: orNull(text<CauseCode>()),
  checked_at: orNull(whole()),
  remote_name: orNull(text()),
  balance_micros: orNull(whole()),
  balance_currency: orNull(text()),
  balance_at: orNull(whole()),
  created_at: whole(),
  credentials_changed_at: whole(),
  /** What the provider said of the account, read at `facts_at`. */
  facts: json<AccountFacts>(),
  facts_at: orNull(whole()),
  /** The connector's own settings: those of a trunk, or of a website with the chat. */
  settings: json<Record<string, unknown>>(),
  disabled_at: orNull(whole()),
  /** The credentials before the present ones, in force for what comes in until `previous_until`. */
  sealed_previous: orNull(text()),
  previous_until: orNull(whole()),
  /** The addresses the credentials were given to be sent to; null where they were given before that was noted. */
  meant_for: orNull(json<string[]>()),
});
export type ProviderAccountRow = RowOf<typeof accounts>;

export const numbers = define('provider_numbers', ['id'], {
  id: text(),
  account_id: text(),
  remote_id: text(),
  address: text(),
  kind: text(),
  country: orNull(text()),
  abilities: json<string[]>(),
  inbound_url: orNull(text()),
  inbound_method: orNull(text()),
  inbound_fallback: orNull(text()),
  seen_at: whole(),
  facts: json<NumberFacts>(),
  purpose: orNull(text<NumberPurpose>()),
  /** When the provider stopped listing it. */
  gone_at: orNull(whole()),
});
export type ProviderNumberRow = RowOf<typeof numbers>;

export const channels = define('channels', ['id'], {
  id: text(),
  name: text(),
  kind: text<ChannelKind>(),
  account_id: text(),
  number_id: text(),
  address: text(),
  default_country: orNull(text()),
  pace: real(),
  inbound_token: text(),
  handed_over_at: orNull(whole()),
  handed_over_how: orNull(text<'by-windgap' | 'by-hand'>()),
  created_at: whole(),
  settings: json<Record<string, unknown>>(),
  /** What a platform must send to show that it means this channel, and when it last did. */
  challenge_word: orNull(text()),
  challenged_at: orNull(whole()),
  /** What it may text; null: ordinary numbers in the countries the organisation works in. */
  destinations: orNull(json<AllowedDestinations>()),
  /** The team it belongs to. */
  team: orNull(text()),
});
export type ChannelRow = RowOf<typeof channels>;

export const proofs = define('hop_proofs', ['subject_id', 'hop'], {
  subject_id: text(),
  hop: text<HopName>(),
  state: text<ProofState>(),
  since: whole(),
  changed_at: whole(),
  evidence_at: orNull(whole()),
  evidence_ref: orNull(text()),
  cause: orNull(text<CauseCode>()),
  note: orNull(text()),
});
export type HopProofRow = RowOf<typeof proofs>;

export type Direction = 'in' | 'out';

export const messages = define('messages', ['id'], {
  id: text(),
  direction: text<Direction>(),
  conversation_id: text(),
  contact_id: text(),
  channel_id: text(),
  sender: text(),
  recipient: text(),
  text: text(),
  /** A file that goes with the text, by its address. */
  media: orNull(json<Media>()),
  /** Words that whoever ordered it gave it, to find it by; null when none. */
  tags: orNull(json<string[]>()),
  /** The template it was made of; null for words of its own. */
  template: orNull(json<MessageTemplate>()),
  /** What may be pressed below it. */
  choices: orNull(json<Choices>()),
  encoding: text<Encoding>(),
  parts: whole(),
  state: text<MessageState>(),
  state_at: whole(),
  /** What an event must outrank to move the message on. */
  state_rank: whole(),
  cause: orNull(text<CauseCode>()),
  provider_message_id: orNull(text()),
  price_micros: orNull(whole()),
  price_currency: orNull(text()),
  /** `consent`: the answer to an opt-out or opt-in word, which goes out though the person declined. */
  origin_kind: text<'provider' | 'user' | 'app' | 'route' | 'consent' | 'broadcast'>(),
  origin_id: orNull(text()),
  origin_name: orNull(text()),
  in_reply_to: orNull(text()),
  inbound_request_id: orNull(text()),
  created_at: whole(),
  subject: orNull(text()),
  /** Why it counts as written by a program, as a sentence; nothing answers it by itself. */
  automatic: orNull(text()),
  /** Files that came along, in their order. */
  files: orNull(json<MessageFile[]>()),
  /** The last moment at which it is of use. */
  valid_until: orNull(whole()),
  /** The channel it goes over if this one does not deliver it; null where it has no second way, or none any more. */
  fallback_to: orNull(text()),
  /** The message whose second way this is. */
  instead_of: orNull(text()),
  /** The message that is its second way. */
  continued_by: orNull(text()),
});
export type MessageRow = RowOf<typeof messages>;

export const events = define('message_events', ['id'], {
  id: generated(),
  message_id: text(),
  kind: text<MessageEventKind>(),
  at: whole(),
  recorded_at: whole(),
  attempt: orNull(whole()),
  cause: orNull(text<CauseCode>()),
  detail: orNull(json<Record<string, unknown>>()),
  exchange_id: orNull(text()),
  inbound_request_id: orNull(text()),
});
export type MessageEventRow = RowOf<typeof events>;

export const outbox = define('outbox', ['message_id'], {
  message_id: text(),
  channel_id: text(),
  priority: whole(),
  /** `aside`: it waits for a person's decision; `held`: its broadcast does. */
  state: text<'due' | 'leased' | 'uncertain' | 'aside' | 'held'>(),
  due_at: whole(),
  attempts: whole(),
  first_attempt_at: orNull(whole()),
  lease_owner: orNull(text()),
  leased_at: orNull(whole()),
  /** Attempts that the provider's side made fail; those cut short by our own end do not slow the next one down. */
  failures: whole(),
  /** The account that may have it from an attempt whose outcome is not known. */
  tried_with: orNull(text()),
});
export type OutboxRow = RowOf<typeof outbox>;

/** `bind`: it came over a trunk's bind, `fetched`: it was read from a mailbox; both are as good as a signature. */
export type SignatureVerdict = 'valid' | 'missing' | 'wrong' | 'stale' | 'not-used' | 'bind' | 'fetched';

export const inbound = define('inbound_requests', ['id'], {
  id: text(),
  /** Empty when it came over a trunk for a number that is no channel. */
  channel_id: text(),
  account_id: orNull(text()),
  received_at: whole(),
  method: text(),
  path: text(),
  query: text(),
  headers: json<Record<string, string>>(),
  body: bytes(),
  remote_address: orNull(text()),
  signature: text<SignatureVerdict>(),
  answer_status: whole(),
  /** `dropped`: set aside, and a person decided that it is not needed. */
  state: text<'stored' | 'done' | 'refused' | 'unreadable' | 'dropped'>(),
  cause: orNull(text<CauseCode>()),
  outcome: orNull(json<Record<string, unknown>>()),
  processed_at: orNull(whole()),
});
export type InboundRequestRow = RowOf<typeof inbound>;

/** The number of a channel on its way from one account to another, with what it was and what it becomes. */
export const numberMoves = define('number_moves', ['id'], {
  id: text(),
  channel_id: text(),
  /** Which side sends: that it comes from, or that it goes to. */
  state: text<'prepared' | 'moved'>(),
  from_account: text(),
  from_number: text(),
  to_account: text(),
  to_number: text(),
  /** 1: the number was entered at the account it goes to for the move. */
  added: whole(),
  /** Of the inbound URL of the side that does not send; the channel has the other. */
  other_token: text(),
  cut_over_at: orNull(whole()),
  /** What the last rehearsal, or the last attempt, came to. */
  said: orNull(text()),
  turns: json<Turn[]>(),
  created_at: whole(),
  ended_at: orNull(whole()),
});
export type NumberMoveRow = RowOf<typeof numberMoves>;

/** Over which other channel messages of a channel go when it does not deliver them. */
export const fallbackRules = define('fallback_rules', ['id'], {
  id: text(),
  channel_id: text(),
  to_id: text(),
  countries: orNull(json<string[]>()),
  what: text<FallbackScope>(),
  after_ms: orNull(whole()),
  twice: whole(),
  created_at: whole(),
});
export type FallbackRuleRow = RowOf<typeof fallbackRules>;

/** A message that has a second way, by the rule as it was when it was ordered. */
export const fallbacks = define('fallbacks', ['message_id'], {
  message_id: text(),
  to_id: text(),
  twice: whole(),
  /** So long the first way has; null: until it has certainly failed. */
  first_until: orNull(whole()),
  /** When it is looked at next; null: when it has failed. */
  due_at: orNull(whole()),
  state: text<'watched' | 'waits' | 'gone' | 'stays' | 'impossible' | 'aside'>(),
  /** Why it went, or did not. */
  said: orNull(text()),
  next_id: orNull(text()),
  decided_at: orNull(whole()),
});
export type FallbackRow = RowOf<typeof fallbacks>;

/** A file that came as a link of the provider's. Its id is that of the file once it is kept. */
export const incomingFiles = define('incoming_files', ['id'], {
  id: text(),
  message_id: text(),
  source: text(),
  state: text<'due' | 'kept' | 'failed'>(),
  due_at: orNull(whole()),
  attempts: whole(),
  /** Why the last attempt brought nothing. */
  said: orNull(text()),
  created_at: whole(),
});
export type IncomingFileRow = RowOf<typeof incomingFiles>;

export const unmatched = define('unmatched_receipts', ['id'], {
  id: generated(),
  channel_id: text(),
  provider_message_id: text(),
  reference: orNull(text()),
  receipt: json<Record<string, unknown>>(),
  inbound_request_id: text(),
  received_at: whole(),
  matched_at: orNull(whole()),
});
export type UnmatchedReceiptRow = RowOf<typeof unmatched>;

/** One HTTP request Windgap made, with what came back. Secrets are masked before it is stored. */
export const exchanges = define('exchanges', ['id'], {
  id: text(),
  purpose: text<
    | 'account-check'
    | 'numbers'
    | 'set-inbound'
    | 'set-up'
    | 'look-up'
    | 'send'
    | 'ask-text'
    | 'door'
    | 'webhook'
    | 'record'
    | 'template'
  >(),
  subject_id: text(),
  at: whole(),
  elapsed_ms: orNull(whole()),
  request: json<{ method: string; url: string; headers: Record<string, string>; body: string | null }>(),
  response: orNull(json<{ status: number; headers: Record<string, string>; body: string }>()),
  cause: orNull(text<CauseCode>()),
});
export type ExchangeRow = RowOf<typeof exchanges>;

export const apps = define('apps', ['id'], {
  id: text(),
  name: text(),
  description: text(),
  created_at: whole(),
  /** The team it belongs to. */
  team: orNull(text()),
});
export type AppRow = RowOf<typeof apps>;

export const apiKeys = define('api_keys', ['id'], {
  id: text(),
  app_id: text(),
  name: text(),
  hint: text(),
  hash: text(),
  scopes: json<string[]>(),
  created_at: whole(),
  expires_at: orNull(whole()),
  last_used_at: orNull(whole()),
  last_used_from: orNull(text()),
  revoked_at: orNull(whole()),
  /** The version of the API it was made for. */
  api_version: text(),
  /** Addresses and networks (CIDR) it may be used from; null for anywhere. */
  addresses: orNull(json<string[]>()),
  /** 1: what it sends reaches test phones alone. */
  for_tests: whole(),
});
export type ApiKeyRow = RowOf<typeof apiKeys>;

export const subscriptions = define('webhook_subscriptions', ['id'], {
  id: text(),
  app_id: text(),
  url: text(),
  events: json<string[]>(),
  /** The present secret, then the one it replaced while that is still signed with. */
  sealed_secrets: text(),
  previous_until: orNull(whole()),
  filter: json<EventFilter>(),
  /** Absent while open. */
  breaker: orNull(json<CircuitBreaker>()),
  paused_at: orNull(whole()),
  /** `unreadable`: its row or secret cannot be read here. */
  paused_why: orNull(text<'failing' | 'gone' | 'by-hand' | 'unreadable'>()),
  created_at: whole(),
  disabled_at: orNull(whole()),
  /** The version of the API its events are written in. */
  api_version: text(),
});
export type WebhookSubscriptionRow = RowOf<typeof subscriptions>;

/** Which events a subscription gets; what is absent does not narrow. */
export interface EventFilter {
  channels?: string[];
  states?: MessageState[];
  /** What becomes of messages that others sent, too. */
  allApps?: boolean;
}

/** Messages an app was told of, whether it took the event or not. */
export const toldApps = define('told_apps', ['app_id', 'message_id'], {
  app_id: text(),
  message_id: text(),
});

export const deliveries = define('webhook_deliveries', ['id'], {
  id: text(),
  subscription_id: text(),
  event_id: text(),
  event_type: text(),
  message_id: orNull(text()),
  ordering_key: text(),
  body: text(),
  state: text<'due' | 'leased' | 'delivered' | 'given-up' | 'aside'>(),
  cause: orNull(text<CauseCode>()),
  attempts: whole(),
  first_attempt_at: orNull(whole()),
  due_at: whole(),
  lease_owner: orNull(text()),
  leased_at: orNull(whole()),
  last_status: orNull(whole()),
  created_at: whole(),
  delivered_at: orNull(whole()),
});
export type WebhookDeliveryRow = RowOf<typeof deliveries>;

export const idempotency = define('idempotency_records', ['owner_id', 'key'], {
  owner_id: text(),
  key: text(),
  body_hash: text(),
  status: whole(),
  response: text(),
  created_at: whole(),
});
export type IdempotencyRow = RowOf<typeof idempotency>;

export const changes = define('changes', ['id'], {
  id: generated(),
  at: whole(),
  topic: text(),
  subject_id: text(),
});
export type ChangeRow = RowOf<typeof changes>;

export const settings = define('settings', ['name'], {
  name: text(),
  value: json<unknown>(),
});
export type SettingRow = RowOf<typeof settings>;

/** One part of a text that a trunk sent in several, with the carrier's id of it. */
export const messageParts = define('message_parts', ['message_id', 'sequence'], {
  message_id: text(),
  sequence: whole(),
  channel_id: text(),
  provider_message_id: text(),
  state: text<'sent' | 'delivered' | 'undelivered'>(),
});
export type MessagePartRow = RowOf<typeof messageParts>;

/** A part of a long text that came in before the others. */
export const inboundParts = define('inbound_parts', ['id'], {
  id: generated(),
  channel_id: text(),
  sender: text(),
  reference: whole(),
  total: whole(),
  sequence: whole(),
  text: text(),
  inbound_request_id: text(),
  received_at: whole(),
  joined_at: orNull(whole()),
});
export type InboundPartRow = RowOf<typeof inboundParts>;

export type TrunkBindState = 'binding' | 'bound' | 'waiting' | 'refused' | 'off';

/** Where a sender name stands with the networks of a country. */
export const nameRegistrations = define('name_registrations', ['number_id', 'country'], {
  number_id: text(),
  country: text(),
  state: text<'submitted' | 'approved' | 'rejected'>(),
  since: whole(),
  /** A reference or the reason, as the carrier gave it. */
  said: orNull(text()),
  by: text(),
});
export type NameRegistrationRow = RowOf<typeof nameRegistrations>;

/** How the person felt about a message: a sign they put to it. */
export const reactions = define('reactions', ['message_id'], {
  message_id: text(),
  sign: text(),
  at: whole(),
});
export type ReactionRow = RowOf<typeof reactions>;

export const trunkStates = define('trunk_states', ['account_id'], {
  account_id: text(),
  state: text<TrunkBindState>(),
  since: whole(),
  cause: orNull(text<CauseCode>()),
  said: orNull(text()),
  next_try_at: orNull(whole()),
  /** Messages in the last second. */
  sent_last_second: whole(),
  unanswered: whole(),
  accepted: whole(),
  refused: whole(),
  reconnects: whole(),
  written_at: whole(),
});
export type TrunkStateRow = RowOf<typeof trunkStates>;

export type MailboxState = 'opening' | 'open' | 'waiting' | 'refused';

/** A mailbox that is read: up to where, and how the connection to it stands. */
export const mailboxStates = define('mailbox_states', ['account_id'], {
  account_id: text(),
  /** What its UIDs are counted within, and the last one taken; null until reading began. */
  validity: orNull(text()),
  uid: whole(),
  /** When the last one taken came, or when reading began. */
  read_to: orNull(whole()),
  taken: whole(),
  state: text<MailboxState>(),
  since: whole(),
  cause: orNull(text<CauseCode>()),
  said: orNull(text()),
  next_try_at: orNull(whole()),
});
export type MailboxStateRow = RowOf<typeof mailboxStates>;

/** The key by which mail of an account is signed, and what was found of its record. */
export const mailKeys = define('mail_keys', ['account_id'], {
  account_id: text(),
  domain: text(),
  selector: text(),
  /** DER, base64. */
  public_key: text(),
  sealed_key: text(),
  state: text<'published' | 'missing' | 'differs'>(),
  said: orNull(text()),
  since: whole(),
  looked_at: orNull(whole()),
  created_at: whole(),
});
export type MailKeyRow = RowOf<typeof mailKeys>;

export const trunkPdus = define('trunk_pdus', ['id'], {
  id: generated(),
  account_id: text(),
  at: whole(),
  way: text<'in' | 'out'>(),
  command: text(),
  status: whole(),
  sequence: whole(),
  fields: json<Record<string, unknown>>(),
  message_id: orNull(text()),
});
export type TrunkPduRow = RowOf<typeof trunkPdus>;

export const visitors = define('chat_visitors', ['id'], {
  id: text(),
  channel_id: text(),
  key_hash: text(),
  name: orNull(text()),
  phone: orNull(text()),
  /** When the visitor typed the code that was texted to the phone; until then it is only what somebody says. */
  confirmed_at: orNull(whole()),
  consent_at: orNull(whole()),
  /** The wording that was agreed to. */
  consent_text: orNull(text()),
  origin: text(),
  created_at: whole(),
  seen_at: whole(),
});
export type ChatVisitorRow = RowOf<typeof visitors>;

/** Where a carrier takes mail for its phones: `local_part` is a pattern of the digits, such as `{national}`. */
export const gateways = define('carrier_gateways', ['carrier'], {
  carrier: text(),
  country: text(),
  domain: text(),
  local_part: text<'national' | 'international'>(),
  changed_at: whole(),
});
export type CarrierGatewayRow = RowOf<typeof gateways>;

/** A connector profile added in the interface. */
export const profiles = define('connector_profiles', ['id'], {
  id: text(),
  text: text(),
  changed_at: whole(),
  changed_by: text(),
});
export type ConnectorProfileRow = RowOf<typeof profiles>;
