/** People: attributes, tags, consents, audiences, import, export, merging. Others come in here. */

export {
  countAudience,
  listAudiences,
  readGroup,
  removeAudience,
  saveAudience,
  whereOf,
} from './audiences';
export { agreedOver, holdsOver } from './consent/consentCoverage';
export {
  type ConsentReply,
  declined,
  declinedAtProvider,
  enterConsent,
  type NewConsent,
  optOutsKeptByProviders,
  recordConsents,
  takeConsentWords,
  toldByProviders,
} from './consent/consents';
export { LEAVE_ROOT, type Leaving, leave, leaveLink, readLeaveLink } from './consent/leaving';
export { exportConsents, exportContacts } from './contactExport';
export { knownIn, knownOf, withPeople } from './contactFacts';
export {
  beginImport,
  cancelImport,
  getImport,
  LARGEST_IMPORT,
  listImports,
  planImport,
  removeImportFiles,
  runImport,
  workImports,
} from './contactImport';
export { keepApart, mergeContacts, suggestMerges, undoMerge } from './contactMerge';
export {
  addContact,
  browseContacts,
  type ContactPage,
  changeContact,
  getContactPage,
  numberOf,
  tagContacts,
} from './contactPages';
export { type ContactView, getContact, listContacts } from './contacts';
export {
  addAddress,
  believeAddress,
  type MoveHow,
  moveIdentity,
  movesOf,
  undoMove,
} from './identityMoves';
export { undoImport } from './importRollback';
export { newContact } from './newContact';
export { contactAt, type MergePreview, type MovePreview, previewMerge, previewMove } from './previews';
