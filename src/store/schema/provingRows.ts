/** Stored rows of readiness, delivery tests and drills. */
import type { CauseCode } from '../../core/delivery/causes';
import type { DeliveryTest } from '../../core/deliveryTest/deliveryTest';
import type { Round } from '../../core/deliveryTest/judge';
import type { Severity } from '../../core/finding';
import type { Examined } from '../../core/readiness/readiness';

export interface ReadinessPartRow {
  /** Such as `account acc_1`, `apps`, `routes`. */
  part: string;
  findings: Examined[];
  at: number;
}

export interface ReadinessHistoryRow {
  id?: number;
  key: string;
  code: string;
  subject_id: string;
  subject_name: string;
  severity: Severity;
  problem: string;
  opened_at: number;
  closed_at: number | null;
}

export interface DeliveryTestRow {
  id: string;
  name: string;
  content: DeliveryTest;
  /** Null where it runs only when somebody asks. */
  every_minutes: number | null;
  /** 1 where routes are not published against it unnoticed. */
  guards_publishing: number;
  created_at: number;
  changed_at: number;
  changed_by: string;
  archived_at: number | null;
}

/** Why a run was asked for. */
export type TestOccasion = 'by-hand' | 'schedule' | 'change' | 'published' | 'pipeline';

export interface DeliveryTestRunRow {
  id: string;
  test_id: string;
  name: string;
  content: DeliveryTest;
  why: TestOccasion;
  /** Runs asked for together. */
  batch: string | null;
  asked_by: string;
  asked_at: number;
  /** `stopped`: it was not allowed or not able to run, which says nothing of the path. */
  state: 'waiting' | 'running' | 'passed' | 'failed' | 'stopped';
  started_at: number | null;
  ended_at: number | null;
  rounds: Round[];
  problem: string | null;
  /** When it first began, and which conversations with its phones were open then; it may be begun again. */
  tidying: { since: number; open: string[] } | null;
}

/** An order that became no message. */
export interface RefusedOrderRow {
  id?: number;
  at: number;
  channel_id: string | null;
  /** As it was given. */
  recipient: string | null;
  cause: CauseCode;
  said: string;
  origin_kind: string;
  origin_id: string;
  origin_name: string;
}

export interface DrillRow {
  id: string;
  fault: string;
  level: string;
  started_at: number;
  by: string;
  guesses: { code: string; at: number }[];
  hints: number;
  ended_at: number | null;
  ending: 'found' | 'given-up' | null;
  score: number | null;
}

export interface BenchScenarioRow {
  id: string;
  name: string;
  faults: Record<string, Record<string, boolean | number>>;
  handsets: { number: string; power: 'on' | 'off'; delayMs: number }[];
  by: string;
  at: number;
}
