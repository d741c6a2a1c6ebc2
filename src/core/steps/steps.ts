/** What automations do, one step after the other. A step is data, ready to be done: nothing in it is still to be looked up. */
import type { Media } from '../delivery/media';
import type { HookSender } from '../hooks/order';
import type { RouteOp } from '../routing/program';
import type { Values } from '../templates/render';

export interface SendStep {
  kind: 'send';
  /** E.164, or an e-mail address where the sender is a mailbox. */
  to: string;
  text: string;
  /** Of a mail. */
  subject?: string;
  /** Sent instead of the text, which is then only what it reads like. */
  template?: { id: string; values: Values };
  /** The sender as it was set up, and what the record said of it. */
  sender: HookSender;
  from?: string;
  media?: Media;
  tags: string[];
  /** Of no use after this, epoch milliseconds; within a week of its turn. */
  usefulUntil?: number;
}

export interface WaitStep {
  kind: 'wait';
  /** Epoch milliseconds. */
  until: number;
}

export interface RecordStep {
  kind: 'record';
  /** A record type of the app's profile. */
  record: string;
  /** Make or change the person's one record; make one each time; make one unless one is open. */
  way: 'upsert' | 'create' | 'create-if-none';
  /** Whose record it is, in E.164. */
  phone: string;
  values: Record<string, string>;
}

export interface AppendStep {
  kind: 'append';
  sheet: string;
  /** Header and value of each column. */
  cells: [header: string, value: string][];
}

export interface NotifyStep {
  kind: 'notify';
  /** E-mail addresses. */
  to: string[];
  subject: string;
  text: string;
}

/** Steps of a route are done with what is known when their turn comes: an answer, an attribute set before. */
export type Step = SendStep | WaitStep | RecordStep | AppendStep | NotifyStep | RouteOp;
