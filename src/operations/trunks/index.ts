/** The held links to carriers: their settings, their state, what was seen on them. Others come in here. */

export { prunePdus } from './trunkRecorder';
export { getTrunk, setTrunkSettings, type TrunkView } from './trunkSettings';
export { holdTrunk, type TrunkLink, trunkAccounts } from './trunks';
