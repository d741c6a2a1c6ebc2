/** The held links to carriers: their settings, their state, what was seen on them. Others come in here. */
export {
  getTrunk,
  holdTrunk,
  prunePdus,
  setTrunkSettings,
  type TrunkLink,
  type TrunkView,
  trunkAccounts,
} from './trunks';
