/** A request to send, validated, queued and handed over. Others come in here. */
export { listGateways, removeGateway, saveGateway } from './carrierLookUp';
export {
  claimDue,
  createReporter,
  dueChannels,
  handOver,
  recoverClaims,
  type SendingLine,
  type SendJob,
  settleLate,
  settleUncertain,
} from './dispatch';
export { pruneIdempotency } from './idempotency';
export { createSender, foreseeRefusal, queueConsentReplies } from './sendMessage';
export { sendQueue } from './sendQueue';
export type { Sender, SendInput } from './sendRequests';
