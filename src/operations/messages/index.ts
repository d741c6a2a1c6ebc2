/** What happens to a message, as events, and delivery receipts. Others come in here. */
export { appendMessageEvents, type Learned, type NewMessageEvent, standingColumns } from './messageEvents';
export { applyReactions } from './reactions';
export { applyAgain, applyKeptReceipts, applyReceipts, type ReceivedReceipt } from './receipts';
