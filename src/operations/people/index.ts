/** Who may sign in, their sessions, and notices to them. Others come in here. */
export { type EntryCode, enterByCode, invitePerson, makeEntryCode, personOfCode } from './entryCodes';
export { getMailAccount, type MailAccountView, performNotice, readMailAddresses, setMailAccount } from './mailNotices';
export { MAIL_SETTING } from './mailSetting';
export { tellAdministrators } from './notices';
export {
  addPerson,
  changePassword,
  changePerson,
  changeRole,
  createFirstOwner,
  hasOwner,
  type ListedPerson,
  listPeople,
  requireGoodPassword,
  switchPersonOff,
  switchPersonOn,
} from './people';
export type { Person } from './person';
export {
  actorOf,
  beginSession,
  endOtherSessions,
  endSession,
  isOpen,
  listSessions,
  type OpenSession,
  type SessionView,
  sessionOf,
} from './sessions';
export { type KnownDevice, signIn } from './signIn';
