/** Business applications and their API keys. Others come in here. */
export {
  bindKey,
  createApiKey,
  createKeyCheck,
  type KeyCheck,
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
