/** Stored rows of readiness, delivery tests and drills. */

import type { AlertRule, Told } from '../../core/alerts/tellings';
import type { ChangedOutside, ChangedRow } from '../../core/changeTrace';
import type { CauseCode } from '../../core/delivery/causes';
import type { DeliveryTest } from '../../core/deliveryTest/deliveryTest';
import type { Round } from '../../core/deliveryTest/judge';
import type { Severity } from '../../core/finding';
import type { TrialNeed } from '../../core/proof/trialNeeds';
import type { Examined } from '../../core/readiness/readiness';
import { define, generated, json, orNull, type RowOf, text, whole } from './definition';

export const readinessParts = define('readiness_parts', ['part'], {
  /** Such as `account acc_1`, `apps`, `routes`. */
  part: text(),
  findings: json<Examined[]>(),
  at: whole(),
});
export type ReadinessPartRow = RowOf<typeof readinessParts>;

/** A finding above notice, from when it began until it ended. */
export const alerts = define('alerts', ['id'], {
  id: generated(),
  key: text(),
  code: text(),
  subject_id: text(),
  subject_name: text(),
  severity: text<Severity>(),
  problem: text(),
  opened_at: whole(),
  closed_at: orNull(whole()),
  /** Where it can be seen to. */
  href: orNull(text()),
  remedy: orNull(text()),
  /** When somebody said that they see to it, and who. */
  taken_at: orNull(whole()),
  taken_by: orNull(text()),
});
export type AlertRow = RowOf<typeof alerts>;

/** Who is told of alerts; the content is the rule without what stands beside it. */
export const alertRules = define('alert_rules', ['id'], {
  id: text(),
  name: text(),
  content: json<Omit<AlertRule, 'id' | 'name'>>(),
  enabled: whole(),
  changed_at: whole(),
  changed_by: text(),
});
export type AlertRuleRow = RowOf<typeof alertRules>;

/** What somebody was told of an alert. */
export const alertTellings = define('alert_tellings', ['id'], {
  id: generated(),
  alert_id: whole(),
  rule_id: text(),
  rule_name: text(),
  what: text<Told>(),
  way: text(),
  at: whole(),
  /** The first line of it. */
  said: text(),
  /** The run that carries it; absent for events. */
  run_id: orNull(text()),
});

/** A time in which work is done on something and nobody is told of it. */
export const workWindows = define('work_windows', ['id'], {
  id: text(),
  from_at: whole(),
  until_at: whole(),
  subject_id: orNull(text()),
  subject_name: orNull(text()),
  reason: text(),
  by: text(),
  at: whole(),
});

export const deliveryTests = define('delivery_tests', ['id'], {
  id: text(),
  name: text(),
  content: json<DeliveryTest>(),
  /** Null where it runs only when somebody asks. */
  every_minutes: orNull(whole()),
  /** 1 where routes are not published against it unnoticed. */
  guards_publishing: whole(),
  created_at: whole(),
  changed_at: whole(),
  changed_by: text(),
  archived_at: orNull(whole()),
});
export type DeliveryTestRow = RowOf<typeof deliveryTests>;

/** Why a run was asked for. */
export type TestOccasion = 'by-hand' | 'schedule' | 'change' | 'published' | 'pipeline' | 'on-trial';

export const testRuns = define('delivery_test_runs', ['id'], {
  id: text(),
  test_id: text(),
  name: text(),
  content: json<DeliveryTest>(),
  why: text<TestOccasion>(),
  /** Runs asked for together. */
  batch: orNull(text()),
  asked_by: text(),
  asked_at: whole(),
  /** `stopped`: it was not allowed or not able to run, which says nothing of the path. */
  state: text<'waiting' | 'running' | 'passed' | 'failed' | 'stopped'>(),
  started_at: orNull(whole()),
  ended_at: orNull(whole()),
  rounds: json<Round[]>(),
  problem: orNull(text()),
  /** When it first began, and which conversations with its phones were open then; it may be begun again. */
  tidying: orNull(json<{ since: number; open: string[] }>()),
});
export type DeliveryTestRunRow = RowOf<typeof testRuns>;

/** An order that became no message. */
export const refusedOrders = define('refused_orders', ['id'], {
  id: generated(),
  at: whole(),
  channel_id: orNull(text()),
  /** As it was given. */
  recipient: orNull(text()),
  cause: text<CauseCode>(),
  said: text(),
  origin_kind: text(),
  origin_id: text(),
  origin_name: text(),
});
export type RefusedOrderRow = RowOf<typeof refusedOrders>;

/** Calls of the public API that were refused alike within a minute. */
export const refusedCalls = define('refused_calls', ['id'], {
  id: generated(),
  /** The first and the last of them, epoch milliseconds. */
  at: whole(),
  last_at: whole(),
  times: whole(),
  /** Null where the key is nobody’s. */
  app_id: orNull(text()),
  app_name: orNull(text()),
  /** The beginning of the key, which tells keys apart and is no key; null where none came. */
  key_hint: orNull(text()),
  from_address: orNull(text()),
  method: text(),
  path: text(),
  status: whole(),
  /** The last part of the problem’s type. */
  type: text(),
  /** What was answered, as people read it. */
  said: text(),
  /** The beginning of what was sent, where the caller is known. */
  body: orNull(text()),
});
export type RefusedCallRow = RowOf<typeof refusedCalls>;

export const drills = define('drills', ['id'], {
  id: text(),
  fault: text(),
  level: text(),
  started_at: whole(),
  by: text(),
  guesses: json<{ code: string; at: number }[]>(),
  hints: whole(),
  ended_at: orNull(whole()),
  ending: orNull(text<'found' | 'given-up'>()),
  score: orNull(whole()),
});
export type DrillRow = RowOf<typeof drills>;

export const benchScenarios = define('bench_scenarios', ['id'], {
  id: text(),
  name: text(),
  faults: json<Record<string, Record<string, boolean | number>>>(),
  handsets: json<{ number: string; power: 'on' | 'off'; delayMs: number }[]>(),
  by: text(),
  at: whole(),
});
export type BenchScenarioRow = RowOf<typeof benchScenarios>;

/** A change of the set-up that is reverted unless what it touches is proven again in time. */
export const changeTrials = define('change_trials', ['id'], {
  id: text(),
  what: text(),
  by_id: text(),
  by_name: text(),
  begun_at: whole(),
  until_at: whole(),
  sealed_rows: json<ChangedRow[]>(),
  outside: json<ChangedOutside[]>(),
  needs: json<TrialNeed[]>(),
  /** `stuck`: it should have been reverted and could not be, or not all of it. */
  state: text<'running' | 'kept' | 'reverted' | 'stuck'>(),
  said: orNull(text()),
  ended_at: orNull(whole()),
  /** When somebody said that they have read what became of it. */
  seen_at: orNull(whole()),
});
export type ChangeTrialRow = RowOf<typeof changeTrials>;
