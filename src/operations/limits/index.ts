/** What keeps sending within bounds: amounts, places, prices. Others come in here. */
export { countSends, type Judged, noteOneStop } from './counting';
export {
  allowedDestinations,
  countriesBefore,
  homeOf,
  readDestinations,
  saveDestinations,
} from './destinations';
export { type LiftView, type LimitView, pruneCounts, recentStops, viewLimits } from './pages';
export { type PriceListView, pricesOf, savePrices, viewPrices } from './prices';
export { changeLimits, endLift, liftLimit, limitsInForce } from './settings';
