/** Keeps the hop proofs of channels and apps in step with the evidence. */
import { changeTrace } from '../../core/changeTrace';
import type { CauseCode } from '../../core/delivery/causes';
import { APP_HOPS, CHANNEL_HOPS, type HopName } from '../../core/proof/hops';
import { agedProof, applyFact, type Proof, type ProofFact, unproven } from '../../core/proof/proofs';
import type { HopProofRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { noteChanges, type Topic } from '../context';

export interface SubjectFact {
  /** Channel or app id. */
  subject: string;
  fact: ProofFact;
}

/** Makes the hollow marks of a new channel or app. */
export async function beginProofs(unit: Unit, subject: string, hops: readonly HopName[], at: number): Promise<void> {
  await unit.proofs.insert(hops.map((hop) => toRow(subject, hop, unproven(at))));
}

/** Applies facts in the order given and writes only the proofs that changed. */
export async function recordFacts(unit: Unit, facts: readonly SubjectFact[], at: number): Promise<void> {
  if (facts.length === 0) return;
  const trace = changeTrace();
  for (const { subject, fact } of facts)
    if (trace && fact.kind === 'changed') trace.hops.push({ subject, hops: fact.touches });
  const subjects = [...new Set(facts.map((entry) => entry.subject))];
  const rows = await unit.proofs.all({ subject_id: subjects });
  const changed = new Set<string>();
  for (const row of rows) {
    const before = fromRow(row);
    const after = facts
      .filter((entry) => entry.subject === row.subject_id)
      .reduce((proof, { fact }) => applyFact(row.hop, proof, fact), before);
    if (after === before) continue;
    await unit.proofs.put(toRow(row.subject_id, row.hop, after));
    if (
      after.state !== before.state ||
      after.cause !== before.cause ||
      (after.evidenceAt ?? 0) - (before.evidenceAt ?? 0) > 1000
    ) {
      changed.add(row.subject_id);
    }
  }
  await noteChanges(
    unit,
    at,
    [...changed].map((subject) => [topicOf(subject), subject] as const),
  );
}

export function fault(subject: string, cause: CauseCode, at: number, ref: string): SubjectFact {
  return { subject, fact: { kind: 'fault', cause, began: at, at, ref } };
}

function topicOf(subject: string): Topic {
  return subject.startsWith('chn_') ? 'channel' : 'app';
}

export function fromRow(row: HopProofRow): Proof {
  return {
    state: row.state,
    since: row.since,
    changedAt: row.changed_at,
    evidenceAt: row.evidence_at ?? undefined,
    evidenceRef: row.evidence_ref ?? undefined,
    cause: row.cause ?? undefined,
    note: row.note ?? undefined,
  };
}

function toRow(subject: string, hop: HopName, proof: Proof): HopProofRow {
  return {
    subject_id: subject,
    hop,
    state: proof.state,
    since: proof.since,
    changed_at: proof.changedAt,
    evidence_at: proof.evidenceAt ?? null,
    evidence_ref: proof.evidenceRef ?? null,
    cause: proof.cause ?? null,
    note: proof.note ?? null,
  };
}

export interface HopProof extends Proof {
  hop: HopName;
}

/** Proofs of some subjects as they count now, each in the order of its way. */
export function groupProofs(rows: readonly HopProofRow[], now: number): Map<string, HopProof[]> {
  const order: readonly HopName[] = [...CHANNEL_HOPS, ...APP_HOPS];
  const groups = new Map<string, HopProof[]>();
  for (const row of rows) {
    const group = groups.get(row.subject_id) ?? [];
    group.push({ hop: row.hop, ...agedProof(fromRow(row), now) });
    groups.set(row.subject_id, group);
  }
  for (const group of groups.values()) group.sort((a, b) => order.indexOf(a.hop) - order.indexOf(b.hop));
  return groups;
}
