/** The shape of every stored row. Column meanings are in migrations/. */
import type { ChannelKind } from '../../core/connect/channelKinds';
import type { AccountFacts, NumberFacts } from '../../core/connect/facts';
import type { NumberPurpose } from '../../core/connect/purposes';
import type { CauseCode } from '../../core/delivery/causes';
import type { MessageEventKind, MessageState } from '../../core/delivery/lifecycle';
import type { Media } from '../../core/delivery/media';
import type { CircuitBreaker } from '../../core/pacing/circuitBreaker';
import type { HopName } from '../../core/proof/hops';
import type { ProofState } from '../../core/proof/proofs';
import type { Encoding } from '../../core/text/measure';
import type { MessageTemplate } from './composeRows';

export * from './automationRows';
export * from './composeRows';
export * from './contactRows';
export * from './provingRows';
export * from './routingRows';

export type Role = 'owner' | 'administrator' | 'agent' | 'viewer';

export interface UserRow {
  id: string;
  email: string;
  name: string;
  role: Role;
  password_hash: string;
  session_version: number;
  created_at: number;
  disabled_at: number | null;
  team: string | null;
  /** Whether they may write first, or only answer. */
  may_start: number;
  /** Whether they get a mail when somebody writes in a conversation of theirs. */
  mail_me: number;
}

export interface SignInFailureRow {
  id?: number;
  subject: string;
  at: number;
}

export interface AuditRow {
  id: string;
  at: number;
  actor_kind: string;
  actor_id: string;
  actor_name: string;
  action: string;
  subject_id: string;
  summary: string;
  details: Record<string, unknown> | null;
}

export interface ProviderAccountRow {
  id: string;
  connector: string;
  name: string;
  sealed_credentials: string;
  state: 'accepted' | 'refused' | 'unreachable';
  cause: CauseCode | null;
  checked_at: number | null;
  remote_name: string | null;
  balance_micros: number | null;
  balance_currency: string | null;
  balance_at: number | null;
  created_at: number;
  credentials_changed_at: number;
  /** What the provider said of the account, read at `facts_at`. */
  facts: AccountFacts;
  facts_at: number | null;
  /** The connector's own settings: those of a trunk, or of a website with the chat. */
  settings: Record<string, unknown>;
  disabled_at: number | null;
  /** The credentials before the present ones, in force for what comes in until `previous_until`. */
  sealed_previous: string | null;
  previous_until: number | null;
}

export interface ProviderNumberRow {
  id: string;
  account_id: string;
  remote_id: string;
  address: string;
  kind: string;
  country: string | null;
  abilities: string[];
  inbound_url: string | null;
  inbound_method: string | null;
  inbound_fallback: string | null;
  seen_at: number;
  facts: NumberFacts;
  purpose: NumberPurpose | null;
  /** When the provider stopped listing it. */
  gone_at: number | null;
}

export interface ChannelRow {
  id: string;
  name: string;
  kind: ChannelKind;
  account_id: string;
  number_id: string;
  address: string;
  default_country: string | null;
  pace: number;
  inbound_token: string;
  handed_over_at: number | null;
  handed_over_how: 'by-windgap' | 'by-hand' | null;
  created_at: number;
  settings: Record<string, unknown>;
  /** What a platform must send to show that it means this channel, and when it last did. */
  challenge_word: string | null;
  challenged_at: number | null;
}

export interface HopProofRow {
  subject_id: string;
  hop: HopName;
  state: ProofState;
  since: number;
  changed_at: number;
  evidence_at: number | null;
  evidence_ref: string | null;
  cause: CauseCode | null;
  note: string | null;
}

export type Direction = 'in' | 'out';

export interface MessageRow {
  id: string;
  direction: Direction;
  conversation_id: string;
  contact_id: string;
  channel_id: string;
  sender: string;
  recipient: string;
  text: string;
  /** A file that goes with the text, by its address. */
  media: Media | null;
  /** Words that whoever ordered it gave it, to find it by; null when none. */
  tags: string[] | null;
  /** The template it was made of; null for words of its own. */
  template: MessageTemplate | null;
  encoding: Encoding;
  parts: number;
  state: MessageState;
  state_at: number;
  /** What an event must outrank to move the message on. */
  state_rank: number;
  cause: CauseCode | null;
  provider_message_id: string | null;
  price_micros: number | null;
  price_currency: string | null;
  /** `consent`: the answer to an opt-out or opt-in word, which goes out though the person declined. */
  origin_kind: 'provider' | 'user' | 'app' | 'route' | 'consent';
  origin_id: string | null;
  origin_name: string | null;
  in_reply_to: string | null;
  inbound_request_id: string | null;
  created_at: number;
}

export interface MessageEventRow {
  id?: number;
  message_id: string;
  kind: MessageEventKind;
  at: number;
  recorded_at: number;
  attempt: number | null;
  cause: CauseCode | null;
  detail: Record<string, unknown> | null;
  exchange_id: string | null;
  inbound_request_id: string | null;
}

export interface OutboxRow {
  message_id: string;
  channel_id: string;
  priority: number;
  state: 'due' | 'leased' | 'uncertain';
  due_at: number;
  attempts: number;
  first_attempt_at: number | null;
  lease_owner: string | null;
  /** Attempts that the provider's side made fail; those cut short by our own end do not slow the next one down. */
  failures: number;
}

/** `bind`: it came over a trunk's bind, which is as good as a signature. */
export type SignatureVerdict = 'valid' | 'missing' | 'wrong' | 'stale' | 'not-used' | 'bind';

export interface InboundRequestRow {
  id: string;
  /** Empty when it came over a trunk for a number that is no channel. */
  channel_id: string;
  account_id: string | null;
  received_at: number;
  method: string;
  path: string;
  query: string;
  headers: Record<string, string>;
  body: Buffer;
  remote_address: string | null;
  signature: SignatureVerdict;
  answer_status: number;
  state: 'stored' | 'done' | 'refused' | 'unreadable';
  cause: CauseCode | null;
  outcome: Record<string, unknown> | null;
  processed_at: number | null;
}

export interface UnmatchedReceiptRow {
  id?: number;
  channel_id: string;
  provider_message_id: string;
  reference: string | null;
  receipt: Record<string, unknown>;
  inbound_request_id: string;
  received_at: number;
  matched_at: number | null;
}

/** One HTTP request Windgap made, with what came back. Secrets are masked before it is stored. */
export interface ExchangeRow {
  id: string;
  purpose:
    | 'account-check'
    | 'numbers'
    | 'set-inbound'
    | 'set-up'
    | 'look-up'
    | 'send'
    | 'webhook'
    | 'record'
    | 'template';
  subject_id: string;
  at: number;
  elapsed_ms: number | null;
  request: { method: string; url: string; headers: Record<string, string>; body: string | null };
  response: { status: number; headers: Record<string, string>; body: string } | null;
  cause: CauseCode | null;
}

export interface AppRow {
  id: string;
  name: string;
  description: string;
  created_at: number;
}

export interface ApiKeyRow {
  id: string;
  app_id: string;
  name: string;
  hint: string;
  hash: string;
  scopes: string[];
  created_at: number;
  expires_at: number | null;
  last_used_at: number | null;
  last_used_from: string | null;
  revoked_at: number | null;
}

export interface WebhookSubscriptionRow {
  id: string;
  app_id: string;
  url: string;
  events: string[];
  /** The present secret, then the one it replaced while that is still signed with. */
  sealed_secrets: string;
  previous_until: number | null;
  filter: EventFilter;
  /** Absent while open. */
  breaker: CircuitBreaker | null;
  paused_at: number | null;
  paused_why: 'failing' | 'gone' | 'by-hand' | null;
  created_at: number;
  disabled_at: number | null;
}

/** Which events a subscription gets; what is absent does not narrow. */
export interface EventFilter {
  channels?: string[];
  states?: MessageState[];
}

export interface WebhookDeliveryRow {
  id: string;
  subscription_id: string;
  event_id: string;
  event_type: string;
  message_id: string | null;
  ordering_key: string;
  body: string;
  state: 'due' | 'leased' | 'delivered' | 'given-up';
  cause: CauseCode | null;
  attempts: number;
  first_attempt_at: number | null;
  due_at: number;
  lease_owner: string | null;
  last_status: number | null;
  created_at: number;
  delivered_at: number | null;
}

export interface IdempotencyRow {
  owner_id: string;
  key: string;
  body_hash: string;
  status: number;
  response: string;
  created_at: number;
}

export interface ChangeRow {
  id?: number;
  at: number;
  topic: string;
  subject_id: string;
}

export interface SettingRow {
  name: string;
  value: unknown;
}

/** One part of a text that a trunk sent in several, with the carrier's id of it. */
export interface MessagePartRow {
  message_id: string;
  sequence: number;
  channel_id: string;
  provider_message_id: string;
  state: 'sent' | 'delivered' | 'undelivered';
}

/** A part of a long text that came in before the others. */
export interface InboundPartRow {
  id?: number;
  channel_id: string;
  sender: string;
  reference: number;
  total: number;
  sequence: number;
  text: string;
  inbound_request_id: string;
  received_at: number;
  joined_at: number | null;
}

export type TrunkBindState = 'binding' | 'bound' | 'waiting' | 'refused' | 'off';

export interface TrunkStateRow {
  account_id: string;
  state: TrunkBindState;
  since: number;
  cause: CauseCode | null;
  said: string | null;
  next_try_at: number | null;
  /** Messages in the last second. */
  sent_last_second: number;
  unanswered: number;
  accepted: number;
  refused: number;
  reconnects: number;
  written_at: number;
}

export interface TrunkPduRow {
  id?: number;
  account_id: string;
  at: number;
  way: 'in' | 'out';
  command: string;
  status: number;
  sequence: number;
  fields: Record<string, unknown>;
  message_id: string | null;
}

export interface ChatVisitorRow {
  id: string;
  channel_id: string;
  key_hash: string;
  name: string | null;
  phone: string | null;
  consent_at: number | null;
  /** The wording that was agreed to. */
  consent_text: string | null;
  origin: string;
  created_at: number;
  seen_at: number;
}

/** Where a carrier takes mail for its phones: `local_part` is a pattern of the digits, such as `{national}`. */
export interface CarrierGatewayRow {
  carrier: string;
  country: string;
  domain: string;
  local_part: 'national' | 'international';
  changed_at: number;
}

/** A connector profile added in the interface. */
export interface ConnectorProfileRow {
  id: string;
  text: string;
  changed_at: number;
  changed_by: string;
}
