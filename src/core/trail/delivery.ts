/** The last hop: an app is told of the message by webhook. */
import type { CauseCode } from '../delivery/causes';
import { type EvidenceRef, explainCause, type TrailHop } from './hop';

/** What every message has: its two ends, what carried it, and who was told of it. */
export interface TrailEnds {
  providerName: string;
  channelName: string;
  from: string;
  to: string;
  /** What it goes through after the provider, and where people read it: “Network” and “Handset” for a text. */
  ends: { between: string; theirs: string };
  deliveries: TrailDelivery[];
}

export interface TrailDelivery {
  id: string;
  app: string;
  eventType: string;
  state: 'due' | 'leased' | 'delivered' | 'given-up' | 'aside';
  attempts: number;
  createdAt: number;
  deliveredAt?: number;
  dueAt: number;
  cause?: CauseCode;
  lastStatus?: number;
  exchangeIds: string[];
}

export function deliveryHop(delivery: TrailDelivery): TrailHop {
  const evidence = delivery.exchangeIds.map((id): EvidenceRef => ({ kind: 'exchange', id }));
  const notes = [
    `Event ${delivery.eventType}`,
    ...(delivery.attempts > 1 ? [`${delivery.attempts} attempts`] : []),
    ...(delivery.state === 'due' && delivery.attempts > 0
      ? [`Next attempt ${new Date(delivery.dueAt).toISOString().slice(0, 19).replace('T', ' ')} UTC`]
      : []),
  ];
  if (delivery.state === 'delivered') {
    const what = `Sent by webhook; the app answered ${delivery.lastStatus ?? '2xx'}`;
    return {
      place: delivery.app,
      what,
      state: 'proven',
      at: delivery.deliveredAt,
      notes,
      evidence,
      again: delivery.id,
    };
  }
  if (!delivery.cause) return { place: delivery.app, what: 'Waiting to be sent', state: 'unproven', notes, evidence };
  const failure = explainCause(
    delivery.cause,
    delivery.app,
    delivery.lastStatus ? String(delivery.lastStatus) : undefined,
  );
  const what = delivery.state === 'given-up' ? 'Could not be delivered' : 'Not delivered yet; Windgap keeps trying';
  return { place: delivery.app, what, state: 'broken', notes, evidence, failure, again: delivery.id };
}
