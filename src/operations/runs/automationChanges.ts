/** What every change of an automation leaves behind: an unproven mark, an audit entry, a page that is drawn anew. */
import type { HopName } from '../../core/proof/hops';
import type { Unit } from '../../store/store';
import { type Actor, noteChanges, recordAudit } from '../context';
import { recordFacts } from '../proofs';

export interface AutomationChange {
  /** Such as `feed.changed`. */
  action: string;
  summary: string;
  /** What is unproven from now on, and why; nothing for a change that touches no hop. */
  touches?: readonly HopName[];
  note?: string;
}

export async function noteAutomation(
  unit: Unit,
  actor: Actor,
  at: number,
  automation: { id: string; app_id: string },
  { action, summary, touches, note }: AutomationChange,
): Promise<void> {
  if (touches && note)
    await recordFacts(unit, [{ subject: automation.id, fact: { kind: 'changed', touches, at, note } }], at);
  await recordAudit(unit, actor, at, { action, subject: automation.id, summary });
  await noteChanges(unit, at, [
    ['app', automation.app_id],
    ['run', automation.id],
  ]);
}
