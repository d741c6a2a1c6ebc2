/** The contact and the conversation a message belongs to, found or made, and what is noted between its messages. Others come in here. */
export { closeConversation, noteTurn } from './conversationEvents';
export { threadKey, threadsFor } from './findOrCreateConversation';
