/** Signing of mail: the key of an account, its record, and whether it holds. Others come in here. */
export { checkMailKeys, signingFor } from './mailKeys';
export { lookForRecord, type MailKeyView, makeMailKey, removeMailKey, viewMailKey } from './manageMailKeys';
