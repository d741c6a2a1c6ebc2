/** Events to apps: subscriptions, deliveries with their retries, what is told of a message. Others come in here. */
export {
  CAUSE_OF_DELIVERY,
  changedSince,
  claimDeliveries,
  createDeliveryReporter,
  type DeliveryJob,
  deliver,
  FEW_WAITING,
  listDeliveries,
  MOST_PER_APP,
  nextDeliveryDueAt,
  recoverDeliveries,
  redeliver,
  redeliverRange,
  releaseDeliveries,
} from './deliveries';
export {
  changeSubscription,
  endSubscription,
  listSubscriptions,
  pauseSubscription,
  replaceSecret,
  resumeSubscription,
  sendTestEvent,
  subscribe,
} from './subscriptions';
export { EVENT_TYPES, type EventType, emitMessageEvents, messageData, sampleEvent, TOLD_STATES } from './webhookEvents';
