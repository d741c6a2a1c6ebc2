/** Changes of the set-up on trial: made, proven again and kept, or put back by themselves. Others come in here. */
export { LONGEST_TRIAL, onTrial, SHORTEST_TRIAL } from './beginTrial';
export { workTrials } from './endTrial';
export { keepTrial, listTrials, putTrialBack, readTrial, type TrialView } from './pages';
