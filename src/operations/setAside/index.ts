/** What was set aside, from all queues of the engine: seen, processed again, dropped. Others come in here. */

export { type Decision, decideSetAside } from './decide';
export { listWord } from './listWord';
export { countSetAside, type QueueView, type SetAsideItem, viewQueues, viewSetAside, whySetAside } from './pages';
export { QUEUES } from './queues';
export { createQueueWatch, readStuckQueues } from './queueWatch';
