/** Delivery tests: kept, run, observed, tidied up after, suggested. Others come in here. */
export {
  archiveTest,
  askForRuns,
  getRun,
  getTest,
  listTests,
  type RunView,
  reportRuns,
  runGuardingTests,
  saveTest,
  setSpendingCap,
  spendingCap,
  spentOnTests,
  type TestInput,
} from './deliveryTests';
export { openWith, tidyAfter } from './testCleanup';
export { createTestRunner } from './testRunner';
export { suggestedTests, testChoices, testsAgainstDraft } from './testSuggestions';
