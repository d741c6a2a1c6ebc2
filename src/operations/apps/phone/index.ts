/** Telephone systems and what is done about a call. Others come in here. */
export {
  addPhoneSystem,
  changePhoneSystem,
  listPhoneSystems,
  type PhoneSystemInput,
  type PhoneSystemView,
  switchPhoneSystem,
} from './phoneSystems';
export { takeCall } from './receiveCall';
