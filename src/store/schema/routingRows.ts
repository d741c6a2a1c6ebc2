/** Stored rows about routes and about the conversations people work in. */

import type { CauseCode } from '../../core/delivery/causes';
import type { Arrival } from '../../core/routing/arrival';
import type { ReplaySummary } from '../../core/routing/replay';
import type { RouteSet } from '../../core/routing/route';
import { define, json, orNull, type RowOf, text, whole } from './definition';

export const routeRevisions = define('route_revisions', ['number'], {
  number: whole(),
  content: json<RouteSet>(),
  published_at: whole(),
  by: text(),
  note: text(),
});
export type RouteRevisionRow = RowOf<typeof routeRevisions>;

export const routeDrafts = define('route_drafts', ['id'], {
  id: text<'draft'>(),
  content: json<RouteSet>(),
  changed_at: whole(),
  by: text(),
});
export type RouteDraftRow = RowOf<typeof routeDrafts>;

export type RoutingOutcome =
  | 'routed'
  /** No route took it. */
  | 'unrouted'
  /** It answered what a route had asked. */
  | 'answer'
  /** It said a word about being written to, which goes before any route. */
  | 'consent'
  /** A program wrote it: no route answers it. */
  | 'automatic'
  /** The same again and again: nothing was done by itself. */
  | 'held'
  /** An app is being asked first. */
  | 'asking';

export const messageRoutings = define('message_routings', ['message_id'], {
  message_id: text(),
  revision: whole(),
  outcome: text<RoutingOutcome>(),
  /** In order, as they were called then. */
  routes: json<{ id: string; name: string }[]>(),
  /** What the decision was made on. */
  facts: json<Arrival>(),
  cause: orNull(text<CauseCode>()),
  at: whole(),
});
export type MessageRoutingRow = RowOf<typeof messageRoutings>;

export const replays = define('replays', ['id'], {
  id: text(),
  before: json<RouteSet>(),
  after: json<RouteSet>(),
  state: text<'waiting' | 'running' | 'done'>(),
  messages: whole(),
  done: whole(),
  summary: orNull(json<ReplaySummary>()),
  created_at: whole(),
  by: text(),
  ended_at: orNull(whole()),
});
export type ReplayRow = RowOf<typeof replays>;

export const conversationNotes = define('conversation_notes', ['id'], {
  id: text(),
  conversation_id: text(),
  at: whole(),
  by: text(),
  /** `note`: what somebody wrote; `turn`: what happened to the conversation. */
  kind: text<'note' | 'turn'>(),
  text: text(),
});
export type ConversationNoteRow = RowOf<typeof conversationNotes>;

export const presence = define('conversation_presence', ['conversation_id', 'user_id'], {
  conversation_id: text(),
  user_id: text(),
  at: whole(),
  writing: whole(),
});
export type PresenceRow = RowOf<typeof presence>;

export const todos = define('todos', ['id'], {
  id: text(),
  contact_id: orNull(text()),
  title: text(),
  why: text(),
  /** The message or run it comes from. */
  ref: orNull(text()),
  created_at: whole(),
  by: text(),
  done_at: orNull(whole()),
  done_by: orNull(text()),
  /** Who is to do it; null for anybody. */
  assigned_to: orNull(text()),
});
export type TodoRow = RowOf<typeof todos>;
