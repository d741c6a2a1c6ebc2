/** What every operation is given and may throw: store, clock, log, the actor with their role, audit, the change table, the wake-up of the engine. Others come in here. */
export {
  type Actor,
  APP_SCOPES,
  CONFIRMED_FOR,
  hasRole,
  type Role,
  realNow,
  requireAccess,
  requireConfirmed,
  requireRole,
  requireScope,
  SCOPES,
  type Scope,
  type SessionOfActor,
  SYSTEM,
} from './actor';
export { type AppContext, configFromEnvironment, lockEngine, openAppContext, wakeUpPath } from './appContext';
export { APP_SEES, narrowedApp, seesAny } from './appSight';
export { recordAudit } from './audit';
export {
  ANY,
  type Change,
  changesAfter,
  latestChangeId,
  noteChanges,
  noteMessages,
  pruneChanges,
  type Topic,
} from './changes';
export { fallbackUrl, inboundUrl, newToken, receiptUrl, withoutTokens } from './channelAddresses';
export { LOW_ROOM, VERY_LOW_ROOM } from './disk/diskRoom';
export type { Work } from './engineWakeUp';
export { found, invalid, invalidText, isOperationError, notOnTrial, OperationError } from './errors';
export { exchangeRow, exchangeRows } from './exchanges';
export { changeWorkbook, fileCards, fileHeader, fileRows } from './fileRows';
export { outliveTheLog } from './logOutput';
export {
  areAdministratorsByTeam,
  type Reach,
  reachedBy,
  reachedChanges,
  reachedConversations,
  reachedMessages,
  reachesApp,
  reachesChannel,
  reachesContent,
  reachesPage,
  reachOf,
  reachValues,
  readingReachOf,
  requireReach,
  requireReached,
  requireReachedConversation,
  requireReachedMessage,
  seesEverything,
  setAdministratorsByTeam,
} from './reach';
export { type EvidenceView, hideTokensIn, viewExchange, viewRequest } from './shownExchanges';
export { asView, asViews, type View } from './view';
