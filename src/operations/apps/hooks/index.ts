/** Send hooks: records that apps post, and the messages made of them. Others come in here. */

export { definitionOf, type HookInput, readMessage, type SenderInput } from './hookMessage';
export { getHook, type HookPostView, type HookSummary, listHooks } from './hookPages';
export { changeHook, createHook, guardHook, switchHook } from './hooks';
export { postHeaders, postTest } from './hookTest';
export { type HookPost, LARGEST_POST, takeHookPost } from './receiveHookPost';
