/** Connector profiles, shipped and written in the interface, and the sealed credentials connectors are used with. Others come in here. */
export {
  addWord,
  connectorOf,
  examineProfileText,
  getProfile,
  listProfiles,
  profileSchemaDocument,
  removeProfile,
  saveProfile,
  syncProfiles,
  type TrialInput,
  type TrialResult,
  tryProfile,
} from './connectorProfiles';
export { credentialsInForce, isOpen, keptCredentials, ledElsewhere, meantFor, openCredentials } from './credentials';
export { type Draft, type DraftInput, draftFromDocument, type Question } from './draft';
export { LISTED_WORDS, readListedWord } from './words';
