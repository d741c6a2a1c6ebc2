/** Runs of automations as they are begun, kept and noted. Others come in here. */
export { noteAutomation } from './automationChanges';
export { runQueue } from './runQueue';
export { beginRun, beginRuns, columnsOf, factsOf, type RunInput, runOf } from './runs';
