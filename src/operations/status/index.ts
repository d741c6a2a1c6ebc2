/** How the installation stands, told outside: a heartbeat to an address, and a page without a sign-in. Others come in here. */
export { beatNow, createHeartbeat, endHeartbeat, type HeartbeatView, setHeartbeat, viewHeartbeat } from './heartbeat';
export { readStatusPage, type StatusPage, setStatusPage, statusPageSettings } from './statusPage';
