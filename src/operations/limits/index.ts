/** What keeps sending within bounds: amounts, places, prices. Others come in here. */
export { countSends, type Judged, noteOneStop, type Outgoing, readUsed, slotOf } from './counting';
export { allowedDestinations, countriesBefore, homeOf, readDestinations, saveDestinations } from './destinations';
export {
  type LiftView,
  type LimitView,
  placeOfStop,
  pruneCounts,
  recentStops,
  type StopView,
  viewLimits,
} from './pages';
export { type PriceListView, pricesOf, priceTo, savePrices, viewPrices } from './prices';
export { changeLimits, endLift, liftLimit, limitsInForce, readAmounts, wordsOf } from './settings';
