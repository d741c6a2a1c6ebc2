/** The routes as they are written and published, and public holidays. Others come in here. */
export { publicHolidays } from './holidays';
export {
  appsTold,
  discardDraft,
  getRoutes,
  type LiveRoutes,
  liveRoutes,
  publishDraft,
  publishedSet,
  type RoutesView,
  returnToRevision,
  routeToApp,
  saveDraft,
} from './routes';
