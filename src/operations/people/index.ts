/** Who may sign in, and notices to them. Others come in here. */
export { getMailAccount, type MailAccountView, performNotice, readMailAddresses, setMailAccount } from './mailNotices';
export { MAIL_SETTING } from './mailSetting';
export { tellAdministrators } from './notices';
export {
  addPerson,
  changePerson,
  createFirstOwner,
  hasOwner,
  listPeople,
  type Person,
  personOfSession,
} from './people';
export { type KnownDevice, signIn } from './signIn';
