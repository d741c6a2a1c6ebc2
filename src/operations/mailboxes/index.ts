/** Mailboxes that are read: held open, what comes stored, up to where each was read. Others come in here. */
export { holdMailbox, mailboxAccounts } from './holdMailbox';
export { getMailbox, type MailboxView } from './mailboxView';
