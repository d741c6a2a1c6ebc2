/** From a complaint to a cause: evidence, verdict, and drills to practise it. Others come in here. */
export type { Scope } from './complaintEvidence';
export { type Answer, type CauseView, diagnoseComplaint, probe } from './diagnose';
export { beginDrill, type DrillView, giveUp, guess, listDrills, takeHint } from './drills';
