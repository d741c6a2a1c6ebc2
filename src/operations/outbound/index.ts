/** A request to send, validated, queued and handed over. Others come in here. */

export { createReporter, settleLate, settleUncertain } from './answers';
export { listGateways, removeGateway, saveGateway } from './carrierLookUp';
export { claimDue, dueChannels, recoverClaims } from './claims';
export { handOver, rehearse, type SendingLine, type SendJob } from './handOver';
export { pruneIdempotency } from './idempotency';
export { fallbackQueue } from './secondWay/fallbackQueue';
export { type FallbackRuleView, listFallbacks, removeFallback, saveFallback } from './secondWay/rules';
export { goSecondWays } from './secondWay/takeSecondWays';
export { createSender, foreseeRefusal, queueConsentReplies } from './sendMessage';
export { sendQueue } from './sendQueue';
export type { Sender, SendInput } from './sendRequests';
