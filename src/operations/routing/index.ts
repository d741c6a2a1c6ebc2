/** Where a message goes: decides by the published routes, performs their steps, explains, replays. Others come in here. */
export { beginReplay, getReplay, workReplays } from './replays';
export {
  automationsBySource,
  examineSet,
  type OtherAutomation,
  type PastMessage,
  pastArrival,
  pastMessages,
  routeChoices,
  routeHits,
  routingFacts,
} from './routePages';
export { performRouteStep } from './routeSteps';
export { routeMessages } from './routing';
