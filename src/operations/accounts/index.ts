/** Provider accounts and their numbers, and what endangers a connection. Others come in here. */
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
  addTrunkNumbers,
  claimNumber,
  confirmCode,
  endTestMode,
  listNumbers,
  type NumberView,
  readAccountAgain,
  register,
  releaseNumber,
  searchableAccounts,
  searchNumbers,
  setPurpose,
  startCode,
  subscribeToEvents,
} from './numbers';
