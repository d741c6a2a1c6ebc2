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
export { planBroadcasts } from './planning';
export { runBroadcasts } from './running';
export { type ApprovalRule, readApprovalRule, saveApprovalRule } from './settings';
export {
  type BroadcastLine,
  type BroadcastPageView,
  getBroadcastPage,
  listBroadcasts,
  listRecipients,
  type PreviewView,
  type Progress,
  previewBroadcast,
  type ReasonLine,
  type RecipientFilter,
  type RecipientView,
} from './views';
