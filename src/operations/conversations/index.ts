/** What agents work through: conversations, replies, files, to-dos. Others come in here. */
export { type ConversationSummary, findElsewhere, getThread, listConversations, markRead } from './conversations';
export {
  addNote,
  answerIn,
  beAt,
  type ConversationView,
  closeByHand,
  closeIdle,
  colleagues,
  countViews,
  giveConversation,
  type IdleRule,
  idleRule,
  othersAt,
  type Present,
  reopenConversation,
  setIdleRule,
  VIEWS,
} from './conversationWork';
export { keepMedia, mediaToSend, readMedia } from './mediaFiles';
export { mailAssignees } from './replyNotices';
export { type ReplyState, replyState } from './replyOptions';
export { type AnswerOffer, answersFor } from './replyTexts';
export { type OpenWay, type ReplyWays, replyWays } from './replyWays';
export { addTodo, finishTodo, finishTodos, listTodos, todosOfFailed } from './todos';
