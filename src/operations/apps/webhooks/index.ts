/** Events to apps: subscriptions, deliveries with their retries, what is told of a message. Others come in here. */
export {
  changedSince,
  claimDeliveries,
  deliver,
  FEW_WAITING,
  nextDeliveryDueAt,
  recoverDeliveries,
  releaseDeliveries,
  releaseLost,
} from './deliveries';
export { type DeliveryJob, MOST_PER_APP } from './deliveryJobs';
export { CAUSE_OF_DELIVERY, listDeliveries, redeliver, redeliverRange } from './deliveryLog';
export { createDeliveryReporter } from './deliveryOutcomes';
export { eventQueue } from './eventQueue';
export {
  changeSubscription,
  endSubscription,
  listSubscriptions,
  pauseSubscription,
  replaceSecret,
  resumeSubscription,
  sendTestEvent,
  setSubscriptionVersion,
  subscribe,
} from './subscriptions';
export {
  ALERT_EVENTS,
  type AlertEventType,
  type AlertToldOf,
  BROADCAST_EVENTS,
  EVENT_TYPES,
  type EventType,
  emitAlertEvent,
  emitBroadcastEvent,
  emitMessageEvents,
  MESSAGE_EVENTS,
  messageData,
  noteTold,
  sampleEvent,
  TOLD_STATES,
} from './webhookEvents';
