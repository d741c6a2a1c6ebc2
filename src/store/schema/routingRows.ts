/** Stored rows about routes and about the conversations people work in. */

import type { CauseCode } from '../../core/delivery/causes';
import type { Arrival } from '../../core/routing/arrival';
import type { ReplaySummary } from '../../core/routing/replay';
import type { RouteSet } from '../../core/routing/route';

export interface RouteRevisionRow {
  number: number;
  content: RouteSet;
  published_at: number;
  by: string;
  note: string;
}

export interface RouteDraftRow {
  id: 'draft';
  content: RouteSet;
  changed_at: number;
  by: string;
}

export type RoutingOutcome =
  | 'routed'
  /** No route took it. */
  | 'unrouted'
  /** It answered what a route had asked. */
  | 'answer'
  /** It said a word about being written to, which goes before any route. */
  | 'consent'
  /** The same again and again: nothing was done by itself. */
  | 'held'
  /** An app is being asked first. */
  | 'asking';

export interface MessageRoutingRow {
  message_id: string;
  revision: number;
  outcome: RoutingOutcome;
  /** In order, as they were called then. */
  routes: { id: string; name: string }[];
  /** What the decision was made on. */
  facts: Arrival;
  cause: CauseCode | null;
  at: number;
}

export interface ReplayRow {
  id: string;
  before: RouteSet;
  after: RouteSet;
  state: 'waiting' | 'running' | 'done';
  messages: number;
  done: number;
  summary: ReplaySummary | null;
  created_at: number;
  by: string;
  ended_at: number | null;
}

export interface ConversationNoteRow {
  id: string;
  conversation_id: string;
  at: number;
  by: string;
  /** `note`: what somebody wrote; `turn`: what happened to the conversation. */
  kind: 'note' | 'turn';
  text: string;
}

export interface PresenceRow {
  conversation_id: string;
  user_id: string;
  at: number;
  writing: number;
}

export interface TodoRow {
  id: string;
  contact_id: string | null;
  title: string;
  why: string;
  /** The message or run it comes from. */
  ref: string | null;
  created_at: number;
  by: string;
  done_at: number | null;
  done_by: string | null;
}
