/** Alerts: what became broken and when it ended, who is told, and who sees to it. Others come in here. */
export { type AlertView, listAlerts, openAlerts, type ToldView, toldOfAlerts } from './list';
export {
  addWindow,
  endWindow,
  listRules,
  listWindows,
  type RuleInput,
  type RuleView,
  removeRule,
  saveRule,
  takeAlert,
  testRule,
  type WindowView,
} from './rules';
export { createAlertTeller, tellAlerts } from './tell';
