/** One message to many people: written, planned, started, watched, read afterwards. Others come in here. */
export {
  approveBroadcast,
  cancelBroadcast,
  holdBroadcast,
  resumeBroadcast,
  sendBack,
  startBroadcast,
} from './course';
export { EXPORTED_AS, exportRecipients } from './export';
export { planBroadcasts } from './planning';
export { runBroadcasts } from './running';
export {
  approvalInWords,
  type BroadcastRules,
  mayDo,
  readBroadcastRules,
  saveBroadcastRules,
  type WrittenRules,
} from './settings';
export { showBroadcast } from './showing';
export {
  nameOfContact,
  planSingle,
  type SingleMessage,
  type SinglePlan,
  type SingleWay,
  sendSingle,
} from './single';
export {
  type BroadcastLine,
  type BroadcastPageView,
  countBroadcast,
  findPeople,
  getBroadcastPage,
  listBroadcasts,
  listRecipients,
  listTags,
  type PreviewView,
  type Progress,
  previewBroadcast,
  type ReasonLine,
  type RecipientFilter,
  type RecipientView,
} from './views';
export type { CourseBar, Waiting } from './watching';
export {
  askForPlan,
  copyBroadcast,
  createBroadcast,
  removeBroadcast,
  saveBroadcast,
} from './writing/drafts';
export { type GivenList, giveList, LARGEST_LIST } from './writing/lists';
export { type BroadcastOrder, orderBroadcast, orderOfRecord } from './writing/ordering';
export { resendToFailed } from './writing/resending';
