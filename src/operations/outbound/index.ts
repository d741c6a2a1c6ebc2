/** A request to send, validated, queued and handed over. Others come in here. */

export { createReporter, settleLate, settleUncertain } from './answers';
export { listGateways, removeGateway, saveGateway } from './carrierLookUp';
export { claimDue, type DueLine, dueChannels, recoverClaims } from './claims';
export { handOver, rehearse, type SendingLine, type SendJob, type SendReport } from './handOver';
export { pruneIdempotency } from './idempotency';
export { fallbackQueue } from './secondWay/fallbackQueue';
export { type FallbackRuleView, listFallbacks, removeFallback, saveFallback } from './secondWay/rules';
export { goSecondWays } from './secondWay/takeSecondWays';
export { createSender, foreseeRefusal, queueBroadcast, queueConsentReplies } from './sendMessage';
export { sendQueue } from './sendQueue';
export type { Draft, Sender, SendInput } from './sendRequests';
export { type KeptBack, keptBack, takeBack } from './withdrawals';
