/** Stored rows of what apps set in motion: send hooks, what was posted to them, and runs. */
import type { CauseCode } from '../../core/delivery/causes';
import type { HookFinding, HookSender } from '../../core/hooks/order';
import type { Jump, TellingColumn } from '../../core/sheets/identity';
import type { RunState, StepResult } from '../../core/steps/run';
import type { RecordStep, Step } from '../../core/steps/steps';
import type { PostedRecord } from '../../core/text/fields';
import type { TemplateUse } from './composeRows';

/** How a send hook knows that it is the app that calls: by its address alone, a bearer token, or a Standard Webhooks signature. */
export type HookGuard = 'address' | 'token' | 'signature';

export interface SendHookRow {
  id: string;
  app_id: string;
  name: string;
  /** The name as it stands in the address, which stays when the hook is renamed. */
  slug: string;
  token: string;
  text: string;
  phone_field: string;
  country: string | null;
  sender: HookSender | null;
  media_field: string | null;
  tags: string[];
  /** Sent instead of the text. */
  template: TemplateUse | null;
  guard: HookGuard;
  sealed_secret: string | null;
  created_at: number;
  changed_at: number;
  disabled_at: number | null;
  disabled_why: string | null;
}

export interface HookPostRow {
  id: string;
  hook_id: string;
  received_at: number;
  method: string;
  path: string;
  headers: Record<string, string>;
  body: string;
  /** What was read of it; null where it could not be read, or was not. */
  record: PostedRecord | null;
  remote_address: string | null;
  /** `sample`: there is no message yet to make of it. */
  state: 'sample' | 'taken' | 'refused';
  answer_status: number;
  cause: CauseCode | null;
  reason: string | null;
  findings: HookFinding[] | null;
  idempotency_key: string | null;
  run_id: string | null;
}

export type RunSource = 'hook' | 'record' | 'sheet-row' | 'sheet-append' | 'feed' | 'phone' | 'notice' | 'route';

/** One run of an automation over one subject, such as a post. */
export interface RunRow {
  id: string;
  app_id: string;
  source: RunSource;
  source_id: string;
  subject_id: string;
  steps: Step[];
  next: number;
  state: RunState;
  due_at: number;
  attempts: number;
  first_attempt_at: number | null;
  results: StepResult[];
  /** What steps leave for steps after them. */
  memory: Record<string, string>;
  /** Whom a route's run is about. */
  contact_id: string | null;
  /** 1 while it waits for that person's answer. */
  awaiting: number;
  /** 1 where it is given up when that person writes. */
  stops_on_reply: number;
  lease_owner: string | null;
  created_at: number;
  ended_at: number | null;
}

/** Credentials to an app's records, with what the last check said. */
export interface AppAccountRow {
  app_id: string;
  connector: string;
  sealed_credentials: string;
  state: 'accepted' | 'refused' | 'unreachable';
  cause: CauseCode | null;
  said: string | null;
  checked_at: number | null;
  remote_name: string | null;
  changed_at: number;
}

export interface RecordActionRow {
  id: string;
  app_id: string;
  name: string;
  /** A record type of the app's profile. */
  record: string;
  way: RecordStep['way'];
  /** Each of the app's fields with the text it is filled with; merge fields are those of a message. */
  fields: Record<string, string>;
  /** Only messages over these channels; null for all. */
  channels: string[] | null;
  /** 1 where only routes use it, and not every message. */
  by_route: number;
  created_at: number;
  changed_at: number;
  disabled_at: number | null;
}

export interface SheetRow {
  id: string;
  /** 1 where only routes add rows, and not every message. */
  by_route: number;
  app_id: string;
  name: string;
  /** `watch`: its new rows are sent; `append`: messages that come in become rows. */
  way: 'watch' | 'append';
  /** A file's name in the folder for sheets, or an address. */
  source: string;
  text: string;
  phone_field: string;
  country: string | null;
  sender: HookSender | null;
  media_field: string | null;
  tags: string[];
  template: TemplateUse | null;
  /** What tells rows apart; null for all they hold. */
  key_column: string | null;
  /** Of an appended sheet: headers, and what their cells are filled with. */
  columns: SheetColumn[];
  channels: string[] | null;
  /** Whether rows that were there at the beginning are sent as well. */
  begin_with: 'new' | 'all';
  file_mark: string | null;
  scanned_at: number | null;
  row_count: number;
  samples: PostedRecord[];
  problem: string | null;
  /** The columns as they were called when the rows were last told apart; null before that. */
  header: string[] | null;
  /** The columns that tell rows apart; null for all the samples have. */
  identity: TellingColumn[] | null;
  /** Known rows that were there at the last look. */
  known_rows: number;
  /** New rows that wait until somebody says what they are. */
  held: HeldRows | null;
  /** What somebody said of the rows that were held. */
  decision: HeldDecision | null;
  /** 0 where every new row is sent at once, however many. */
  holds_jumps: number;
  created_at: number;
  changed_at: number;
  disabled_at: number | null;
}

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

export interface SeenRowRow {
  sheet_id: string;
  row_key: string;
  /** In the file, the header being 1. */
  line: number;
  /** `before`: it was there before anybody wanted rows sent, or carried the mark; `repeated`: another row has its key. */
  state: 'before' | 'taken' | 'refused' | 'repeated';
  result: string | null;
  run_id: string | null;
  seen_at: number;
  /** When the mark and result were put into the file. */
  written_at: number | null;
}

export interface FeedRow {
  id: string;
  app_id: string;
  name: string;
  sealed_url: string;
  /** The address without what opens it. */
  shown_url: string;
  period_minutes: number;
  /** IANA, of events that name none. */
  zone: string;
  /** ISO 3166-1 alpha-2, of numbers without a country code. */
  country: string | null;
  /** HH:MM at which reminders of whole days leave. */
  day_time: string;
  /** Minutes before the beginning. */
  offsets: number[];
  text: string;
  sender: HookSender;
  tags: string[];
  /** E-mail addresses that are told of answers. */
  notify: string[];
  etag: string | null;
  /** When the reading began that has not ended yet; left behind by an engine that ended meanwhile. */
  read_began_at: number | null;
  synced_at: number | null;
  /** Somebody asked for it to be read at once. */
  wanted_at: number | null;
  calendar_name: string | null;
  problem: string | null;
  /** Events that could not be placed in time. */
  problems: { title: string; reason: string }[];
  created_at: number;
  changed_at: number;
  disabled_at: number | null;
}

export interface FeedEventRow {
  feed_id: string;
  event_key: string;
  title: string;
  starts_at: number;
  /** YYYY-MM-DD of a whole day. */
  all_day: string | null;
  phones: string[];
  emails: string[];
  /** Changes when anything changes that a reminder depends on. */
  fingerprint: string;
  state: 'planned' | 'skipped' | 'cancelled';
  /** Why it is skipped or cancelled. */
  reason: string | null;
  answer: 'yes' | 'no' | null;
  answered_at: number | null;
  answer_message_id: string | null;
  changed_at: number;
}

export type CallEvent = 'incoming' | 'missed' | 'voicemail-box';

export interface PhoneSystemRow {
  id: string;
  app_id: string;
  name: string;
  slug: string;
  token: string;
  /** Which calls something is done about. */
  events: CallEvent[];
  /** To the caller; empty for nothing. */
  answer: string;
  /** To staff, with merge fields; empty for nothing. */
  alert: string;
  alert_phones: string[];
  alert_mails: string[];
  country: string | null;
  channel_id: string;
  /** A caller is answered at most once in so many hours. */
  once_hours: number;
  created_at: number;
  changed_at: number;
  disabled_at: number | null;
}

export interface PhoneCallRow {
  id: string;
  system_id: string;
  call_id: string | null;
  received_at: number;
  event: CallEvent | null;
  caller: string | null;
  called: string | null;
  body: string;
  answer_status: number;
  /** `quiet`: understood, and there was nothing to do or nobody to answer. */
  state: 'answered' | 'alerted' | 'quiet' | 'refused';
  reason: string | null;
  run_ids: string[];
}
