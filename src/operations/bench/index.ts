/** The control of the simulated outside. Others come in here. */
export {
  addCalendarEvent,
  type BenchState,
  type HandsetSight,
  hasBench,
  moveClock,
  readBench,
  seeHandsets,
  setFault,
  setHandset,
  setReviewer,
  typeOnHandset,
} from './bench';
export { applyScenario, keepScenario, listScenarios, removeScenario } from './benchScenarios';
export { drillRuns, refuseDuringDrill } from './duringDrill';
export { type TestPhone, testPhones } from './testPhones';
