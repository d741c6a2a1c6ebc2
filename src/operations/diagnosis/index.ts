/** From a complaint to a cause: evidence, verdict, and drills to practise it. Others come in here. */
export type { Scope } from './complaintEvidence';
export { type Answer, type CauseView, type Complaint, type DiagnosisView, diagnoseComplaint } from './diagnose';
export { beginDrill, type DrillView, giveUp, guess, listDrills, takeHint } from './drills';
export { type MadeGood, makeGood } from './makeGood';
export { type Probed, probe } from './probe';
export { type Report, reportOf } from './report';
export { whyTestFailed } from './whyTestFailed';
