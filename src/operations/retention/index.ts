/** How long internal data is kept, and removing what is older. Others come in here. */
export { prune } from './prune';
export { changeRetention, type RetentionView, viewRetention } from './retention';
