export { doubtNobodys, doubtReturned, doubtWrongPeople, forgetMissed, noteMissed } from './doubts';
export {
  addIdentities,
  enterHistory,
  firstOfKind,
  holderOf,
  holdersOf,
  identityOn,
  identityWritten,
  isOn,
  knownBy,
  type NewIdentity,
  type OnChannel,
  ofTelephone,
  phone,
  proveIdentities,
  reachedOn,
  readKnownBy,
} from './identities';
