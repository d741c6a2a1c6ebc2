/** The examination of the set-up: its checks, its monitor, alerts, what stands on the overview. Others come in here. */

export { type Watched, watchedChannels } from './checks/traffic/watched';
export { getOverview } from './overview';
export { countErrors, examineNow, getReadiness, muteFinding, unmuteFinding } from './readiness';
export { createReadinessMonitor } from './readinessMonitor';
