/** Who may sign in, their sessions, and notices to them. Others come in here. */
export {
  askForLink,
  type EntryCode,
  enterByCode,
  entryLink,
  invitePerson,
  mailEntryCode,
  makeEntryCode,
  personOfCode,
} from './entryCodes';
export {
  type Begun,
  keepPasskey,
  passkeyToAdd,
  passkeyToShow,
  relyingPartyOf,
  removePasskey,
} from './factors/passkeys';
export { makeRecoveryCodes } from './factors/recoveryCodes';
export { requireSecondFactor, rolesWithSecondFactor } from './factors/required';
export {
  afterPassword,
  clearFactors,
  confirmSession,
  type Factors,
  finishEnrolling,
  getFactors,
  noteConfirmed,
  noteEnrolled,
  showSecondFactor,
  signInByPasskey,
  type WaitingSignIn,
  waitingSignIn,
} from './factors/secondFactor';
export { keepTimeCodes, type NewTimeCodes, removeTimeCodes, timeCodesToAdd } from './factors/timeCodes';
export { claimInstallation, createFirstOwner, firstOwnerCode, hasOwner } from './firstOwner';
export {
  getMailAccount,
  hasMail,
  type MailAccountView,
  mailboxesForNotices,
  performNotice,
  readMailAddresses,
  setMailAccount,
} from './mailNotices';
export { MAIL_SETTING } from './mailSetting';
export { tellAdministrators } from './notices';
export {
  addPerson,
  changePassword,
  changePerson,
  changeRole,
  type ListedPerson,
  listPeople,
  requireGoodPassword,
  switchPersonOff,
  switchPersonOn,
} from './people';
export type { Person } from './person';
export {
  getProvider,
  type ProviderView,
  providerOffered,
  readRules,
  removeProvider,
  returnAddress,
  setProvider,
} from './provider/settings';
export {
  beginProviderSignIn,
  type CameBack,
  confirmByProvider,
  endProviderSignIn,
  providerSignOut,
} from './provider/signIn';
export {
  ARRIVED,
  actorOf,
  beginSession,
  endOtherSessions,
  endSession,
  isOpen,
  listSessions,
  type NewSession,
  type OpenSession,
  type SessionView,
  sessionOf,
} from './sessions';
export { type KnownDevice, signIn } from './signIn';
export {
  giveToTeam,
  limitAdministrators,
  listTeams,
  putIntoTeams,
  removeTeam,
  setTeam,
  type TeamView,
} from './teams';
