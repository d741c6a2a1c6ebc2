/** Records in apps: kept, looked up, counted. Others come in here. */
export { countOpenRecords, lookUpPerson } from './lookUps';
export { credentialsOf, keepByHand, keepMessages, messageContexts, performRecord, recordOfMessage } from './recordSync';
export {
  type AppProfileView,
  addRecordAction,
  changeRecordAction,
  checkRecords,
  connectRecords,
  EXAMPLE,
  getRecords,
  listAppProfiles,
  type RecordActionInput,
  type RecordActionView,
  type RecordRunView,
  type RecordsConnection,
  switchRecordAction,
} from './records';
