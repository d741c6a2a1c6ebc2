/** Stored rows of what apps set in motion: send hooks, what was posted to them, and runs. */

import type { CauseCode } from '../../core/delivery/causes';
import type { HookFinding, HookSender } from '../../core/hooks/order';
import type { Jump, TellingColumn } from '../../core/sheets/identity';
import type { RunState, StepResult } from '../../core/steps/run';
import type { RecordStep, Step } from '../../core/steps/steps';
import type { PostedRecord } from '../../core/text/fields';
import type { TemplateUse } from './composeRows';
import { define, json, orNull, type RowOf, text, whole } from './definition';

/** How a send hook knows that it is the app that calls: by its address alone, a bearer token, or a Standard Webhooks signature. */
export type HookGuard = 'address' | 'token' | 'signature';

export const hooks = define('send_hooks', ['id'], {
  id: text(),
  app_id: text(),
  name: text(),
  /** The name as it stands in the address, which stays when the hook is renamed. */
  slug: text(),
  token: text(),
  text: text(),
  phone_field: text(),
  /** A post begins a broadcast to these, instead of a message to the phone the record names. */
  audience_id: orNull(text()),
  country: orNull(text()),
  sender: orNull(json<HookSender>()),
  media_field: orNull(text()),
  tags: json<string[]>(),
  /** Sent instead of the text. */
  template: orNull(json<TemplateUse>()),
  guard: text<HookGuard>(),
  sealed_secret: orNull(text()),
  created_at: whole(),
  changed_at: whole(),
  disabled_at: orNull(whole()),
  disabled_why: orNull(text()),
});
export type SendHookRow = RowOf<typeof hooks>;

export const hookPosts = define('hook_posts', ['id'], {
  id: text(),
  hook_id: text(),
  received_at: whole(),
  method: text(),
  path: text(),
  headers: json<Record<string, string>>(),
  body: text(),
  /** What was read of it; null where it could not be read, or was not. */
  record: orNull(json<PostedRecord>()),
  remote_address: orNull(text()),
  /** `sample`: there is no message yet to make of it. */
  state: text<'sample' | 'taken' | 'refused'>(),
  answer_status: whole(),
  cause: orNull(text<CauseCode>()),
  reason: orNull(text()),
  findings: orNull(json<HookFinding[]>()),
  idempotency_key: orNull(text()),
  /** What it began where the hook goes to an audience. */
  broadcast_id: orNull(text()),
  run_id: orNull(text()),
});
export type HookPostRow = RowOf<typeof hookPosts>;

export type RunSource = 'hook' | 'record' | 'sheet-row' | 'sheet-append' | 'feed' | 'phone' | 'notice' | 'route';

/** One run of an automation over one subject, such as a post. */
export const runs = define('runs', ['id'], {
  id: text(),
  app_id: text(),
  source: text<RunSource>(),
  source_id: text(),
  subject_id: text(),
  steps: json<Step[]>(),
  next: whole(),
  state: text<RunState>(),
  due_at: whole(),
  attempts: whole(),
  first_attempt_at: orNull(whole()),
  results: json<StepResult[]>(),
  /** What steps leave for steps after them. */
  memory: json<Record<string, string>>(),
  /** Whom a route's run is about. */
  contact_id: orNull(text()),
  /** 1 while it waits for that person's answer. */
  awaiting: whole(),
  /** 1 where it is given up when that person writes. */
  stops_on_reply: whole(),
  /** Runs with the same one are performed one after the other: those about one person. */
  turn: orNull(text()),
  lease_owner: orNull(text()),
  leased_at: orNull(whole()),
  created_at: whole(),
  ended_at: orNull(whole()),
});
export type RunRow = RowOf<typeof runs>;

/** Credentials to an app's records, with what the last check said. */
export const appAccounts = define('app_accounts', ['app_id'], {
  app_id: text(),
  connector: text(),
  sealed_credentials: text(),
  state: text<'accepted' | 'refused' | 'unreachable'>(),
  cause: orNull(text<CauseCode>()),
  said: orNull(text()),
  checked_at: orNull(whole()),
  remote_name: orNull(text()),
  changed_at: whole(),
});
export type AppAccountRow = RowOf<typeof appAccounts>;

export const recordActions = define('record_actions', ['id'], {
  id: text(),
  app_id: text(),
  name: text(),
  /** A record type of the app's profile. */
  record: text(),
  way: text<RecordStep['way']>(),
  /** Each of the app's fields with the text it is filled with; merge fields are those of a message. */
  fields: json<Record<string, string>>(),
  /** Only messages over these channels; null for all. */
  channels: orNull(json<string[]>()),
  /** 1 where only routes use it, and not every message. */
  by_route: whole(),
  created_at: whole(),
  changed_at: whole(),
  disabled_at: orNull(whole()),
});
export type RecordActionRow = RowOf<typeof recordActions>;

export const sheets = define('sheets', ['id'], {
  id: text(),
  /** 1 where only routes add rows, and not every message. */
  by_route: whole(),
  app_id: text(),
  name: text(),
  /** `watch`: its new rows are sent; `append`: messages that come in become rows. */
  way: text<'watch' | 'append'>(),
  /** A file's name in the folder for sheets, or an address. */
  source: text(),
  text: text(),
  phone_field: text(),
  country: orNull(text()),
  sender: orNull(json<HookSender>()),
  media_field: orNull(text()),
  tags: json<string[]>(),
  template: orNull(json<TemplateUse>()),
  /** What tells rows apart; null for all they hold. */
  key_column: orNull(text()),
  /** Of an appended sheet: headers, and what their cells are filled with. */
  columns: json<SheetColumn[]>(),
  channels: orNull(json<string[]>()),
  /** Whether rows that were there at the beginning are sent as well. */
  begin_with: text<'new' | 'all'>(),
  file_mark: orNull(text()),
  scanned_at: orNull(whole()),
  /** How often in a row it could not be read. */
  failures: whole(),
  /** Of the file that could not be read; another is read at once. Null at an address. */
  failed_mark: orNull(text()),
  /** Not before then is it read again. */
  retry_at: orNull(whole()),
  row_count: whole(),
  samples: json<PostedRecord[]>(),
  problem: orNull(text()),
  /** The columns as they were called when the rows were last told apart; null before that. */
  header: orNull(json<string[]>()),
  /** The columns that tell rows apart; null for all the samples have. */
  identity: orNull(json<TellingColumn[]>()),
  /** Known rows that were there at the last look. */
  known_rows: whole(),
  /** New rows that wait until somebody says what they are. */
  held: orNull(json<HeldRows>()),
  /** What somebody said of the rows that were held. */
  decision: orNull(json<HeldDecision>()),
  /** 0 where every new row is sent at once, however many. */
  holds_jumps: whole(),
  created_at: whole(),
  changed_at: whole(),
  disabled_at: orNull(whole()),
});
export type SheetRow = RowOf<typeof sheets>;

/** Rows that look new and may be old ones that were changed. */
export interface HeldRows {
  at: number;
  rows: number;
  why: Jump | 'columns';
  /** Columns that told rows apart and are no longer found. */
  lost: string[];
  /** Of their keys in order, so that what is decided is decided of these rows and no others. */
  print: string;
  samples: PostedRecord[];
}

export interface HeldDecision {
  what: 'send' | 'known';
  print: string;
  by: string;
}

export interface SheetColumn {
  header: string;
  /** With merge fields of a message. */
  fill: string;
}

export const seenRows = define('sheet_rows', ['sheet_id', 'row_key'], {
  sheet_id: text(),
  row_key: text(),
  /** In the file, the header being 1. */
  line: whole(),
  /** `before`: it was there before anybody wanted rows sent, or carried the mark; `repeated`: another row has its key. */
  state: text<'before' | 'taken' | 'refused' | 'repeated'>(),
  result: orNull(text()),
  run_id: orNull(text()),
  seen_at: whole(),
  /** When the mark and result were put into the file. */
  written_at: orNull(whole()),
});
export type SeenRowRow = RowOf<typeof seenRows>;

export const feeds = define('feeds', ['id'], {
  id: text(),
  app_id: text(),
  name: text(),
  sealed_url: text(),
  /** The address without what opens it. */
  shown_url: text(),
  period_minutes: whole(),
  /** IANA, of events that name none. */
  zone: text(),
  /** ISO 3166-1 alpha-2, of numbers without a country code. */
  country: orNull(text()),
  /** HH:MM at which reminders of whole days leave. */
  day_time: text(),
  /** Minutes before the beginning. */
  offsets: json<number[]>(),
  text: text(),
  sender: json<HookSender>(),
  /** Over which those are reminded of whom only an e-mail address stands in an event; null for not at all. */
  mail_channel: orNull(text()),
  tags: json<string[]>(),
  /** E-mail addresses that are told of answers. */
  notify: json<string[]>(),
  etag: orNull(text()),
  /** When the reading began that has not ended yet; left behind by an engine that ended meanwhile. */
  read_began_at: orNull(whole()),
  synced_at: orNull(whole()),
  /** Somebody asked for it to be read at once. */
  wanted_at: orNull(whole()),
  calendar_name: orNull(text()),
  problem: orNull(text()),
  /** Events that could not be placed in time. */
  problems: json<{ title: string; reason: string }[]>(),
  created_at: whole(),
  changed_at: whole(),
  disabled_at: orNull(whole()),
});
export type FeedRow = RowOf<typeof feeds>;

export const feedEvents = define('feed_events', ['feed_id', 'event_key'], {
  feed_id: text(),
  event_key: text(),
  title: text(),
  starts_at: whole(),
  /** YYYY-MM-DD of a whole day. */
  all_day: orNull(text()),
  phones: json<string[]>(),
  emails: json<string[]>(),
  /** Changes when anything changes that a reminder depends on. */
  fingerprint: text(),
  state: text<'planned' | 'skipped' | 'cancelled'>(),
  /** Why it is skipped or cancelled. */
  reason: orNull(text()),
  answer: orNull(text<'yes' | 'no'>()),
  answered_at: orNull(whole()),
  answer_message_id: orNull(text()),
  changed_at: whole(),
});
export type FeedEventRow = RowOf<typeof feedEvents>;

export type CallEvent = 'incoming' | 'missed' | 'voicemail-box';

export const phoneSystems = define('phone_systems', ['id'], {
  id: text(),
  app_id: text(),
  name: text(),
  slug: text(),
  token: text(),
  /** Which calls something is done about. */
  events: json<CallEvent[]>(),
  /** To the caller; empty for nothing. */
  answer: text(),
  /** To staff, with merge fields; empty for nothing. */
  alert: text(),
  alert_phones: json<string[]>(),
  alert_mails: json<string[]>(),
  country: orNull(text()),
  /** IANA, of the time a text tells; that of the country where null. */
  zone: orNull(text()),
  channel_id: text(),
  /** A caller is answered at most once in so many hours. */
  once_hours: whole(),
  created_at: whole(),
  changed_at: whole(),
  disabled_at: orNull(whole()),
});
export type PhoneSystemRow = RowOf<typeof phoneSystems>;

export const phoneCalls = define('phone_calls', ['id'], {
  id: text(),
  system_id: text(),
  call_id: orNull(text()),
  received_at: whole(),
  event: orNull(text<CallEvent>()),
  caller: orNull(text()),
  called: orNull(text()),
  body: text(),
  answer_status: whole(),
  /** `quiet`: understood, and there was nothing to do or nobody to answer. */
  state: text<'answered' | 'alerted' | 'quiet' | 'refused'>(),
  reason: orNull(text()),
  run_ids: json<string[]>(),
});
export type PhoneCallRow = RowOf<typeof phoneCalls>;
