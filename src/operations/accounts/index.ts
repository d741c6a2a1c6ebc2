/** Provider accounts and their numbers, and what endangers a connection. Others come in here. */
export { createAccountChecks } from './accountChecks';
export {
  type AccountView,
  type ConnectorView,
  checkAccount,
  connectProvider,
  getAccount,
  listAccounts,
  listConnectors,
  replaceCredentials,
  setAccountDisabled,
} from './accounts';
export { type ConnectionFinding, findingsOf } from './connectionFindings';
export {
  claimNumber,
  listNumbers,
  type NumberView,
  releaseNumber,
  searchableAccounts,
  searchNumbers,
  setPurpose,
} from './numbers';
export { confirmCode, endTestMode, readAccountAgain, register, startCode, subscribeToEvents } from './providerChanges';
export { readTrunkSettings } from './readTrunkSettings';
export { addTrunkNumber, addTrunkNumbers } from './trunkNumbers';
