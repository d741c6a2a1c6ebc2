/** A delivery that was claimed, what came of an attempt at it, and how many of one app may be under way. */
import type { Exchange } from '../../../connectors/connector';
import type { CauseCode } from '../../../core/delivery/causes';
import type { WebhookDeliveryRow, WebhookSubscriptionRow } from '../../../store/schema/rows';

export interface DeliveryJob {
  delivery: WebhookDeliveryRow;
  subscription: WebhookSubscriptionRow;
  /** What signs it. */
  secrets: readonly string[];
}

/** Calls to one app at once; a slow one must not keep the others waiting. */
export const MOST_PER_APP = 24;

export interface DeliveryReport {
  job: DeliveryJob;
  exchange: Exchange;
  cause?: CauseCode;
  retryAfter?: number;
  at: number;
}
