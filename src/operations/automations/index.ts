/** Claims due runs and performs their steps. Others come in here. */
export { createRunner, recoverRuns } from './runner';
