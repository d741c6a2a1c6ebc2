/** Changes of the set-up on trial: made, proven again and kept, or reverted by themselves. Others come in here. */
export { LONGEST_TRIAL, onTrial, SHORTEST_TRIAL } from './beginTrial';
export { workTrials } from './endTrial';
export { keepTrial, listTrials, readTrial, revertTrial, type TrialView } from './pages';
