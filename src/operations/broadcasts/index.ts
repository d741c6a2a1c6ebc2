/** One message to many people: written, planned, started, watched, read afterwards. Others come in here. */
export {
  approveBroadcast,
  cancelBroadcast,
  holdBroadcast,
  resumeBroadcast,
  sendBack,
  startBroadcast,
} from './course';
export {
  askForPlan,
  copyBroadcast,
  createBroadcast,
  giveList,
  removeBroadcast,
  saveBroadcast,
} from './drafts';
export { EXPORTED_AS, exportRecipients } from './export';
export { type BroadcastOrder, orderBroadcast } from './ordering';
export { planBroadcasts } from './planning';
export { runBroadcasts } from './running';
export { type ApprovalRule, readApprovalRule, saveApprovalRule } from './settings';
export { showBroadcast } from './showing';
export {
  type BroadcastLine,
  type BroadcastPageView,
  countBroadcast,
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
