/** What all the engine's queues have in common: one bad item fails alone, is counted, and is set aside. Others come in here. */

export { isStoreTrouble } from '../../store/trouble';
export { type Beside, createBeside } from './beside';
export { createEngineHealth, type EngineHealth, type LoopTrouble, readLoopTroubles } from './engineHealth';
export { noteDecided, noteFailure, noteSetAside } from './failures';
export { ABANDONED_AFTER, LOST_EVERY } from './leases';
export { aloneAfterFailure } from './oneByOne';
export { createTurns, type InTurn } from './turns';
export type { ItemView, Waiting, WorkQueue } from './workQueue';
