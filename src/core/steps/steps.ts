/** What automations do, one step after the other. A step is data, ready to be done: nothing in it is still to be looked up. */
import type { Media } from '../delivery/media';
import type { HookSender } from '../hooks/order';

export interface SendStep {
  kind: 'send';
  /** E.164. */
  to: string;
  text: string;
  /** The sender as it was set up, and what the record said of it. */
  sender: HookSender;
  from?: string;
  media?: Media;
  tags: string[];
}

export interface WaitStep {
  kind: 'wait';
  /** Epoch milliseconds. */
  until: number;
}

export type Step = SendStep | WaitStep;
