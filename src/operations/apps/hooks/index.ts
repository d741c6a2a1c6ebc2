/** Send hooks: records that apps post, and the messages made of them. Others come in here. */
export {
  changeHook,
  createHook,
  definitionOf,
  getHook,
  guardHook,
  type HookInput,
  type HookPostView,
  type HookSummary,
  listHooks,
  readMessage,
  type SenderInput,
  switchHook,
} from './hooks';
export { postHeaders, postTest } from './hookTest';
export { type HookPost, LARGEST_POST, pruneHookPosts, takeHookPost } from './receiveHookPost';
