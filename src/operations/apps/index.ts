/** Business applications, their API keys, and their calls that were refused. Others come in here. */
export {
  bindKey,
  createApiKey,
  createKeyCheck,
  type KeyCheck,
  type KeyVerdict,
  narrowKey,
  replaceApiKey,
  revokeApiKey,
  setKeyVersion,
  stateOfKey,
} from './apiKeys';
export {
  type AppSummary,
  type Automation,
  automationPage,
  createApp,
  type DeliveryView,
  getApp,
  type KeyView,
  listApps,
  nameApp,
  type SubscriptionView,
} from './apps';
export {
  createRefusedCallKeeper,
  listRefusedCalls,
  type RefusedCallKeeper,
  type RefusedCallView,
} from './refusedCalls';
