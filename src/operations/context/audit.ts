import { randomBytes } from 'node:crypto';
import { BEGINNING, chainDigest, personalDigest } from '../../core/audit/chain';
import { changeTrace } from '../../core/changeTrace';
import { newId } from '../../store/ids';
import type { Unit } from '../../store/store';
import type { Actor } from './actor';

interface AuditNote {
  action: string;
  subject: string;
  summary: string;
  details?: Record<string, unknown>;
}

/** Writes who changed what in the same unit as the change, so that neither exists without the other. */
export async function recordAudit(unit: Unit, actor: Actor, at: number, note: AuditNote): Promise<void> {
  changeTrace()?.summaries.push(note.summary);
  // Units take turns, over all processes: what is the last entry here is so when this one is written.
  const [last] = await unit.select<{ place: number; digest: string }>(
    'SELECT place, digest FROM audit_entries WHERE place IS NOT NULL ORDER BY place DESC LIMIT 1',
  );
  const salt = randomBytes(16).toString('base64url');
  const part = { actor_name: actor.name, summary: note.summary };
  const details = note.details ?? null;
  const entry = {
    place: (last?.place ?? 0) + 1,
    id: newId('aud', at),
    at,
    actor_kind: actor.kind,
    actor_id: actor.id,
    action: note.action,
    subject_id: note.subject,
    personal: personalDigest(salt, { ...part, details: details && JSON.stringify(details) }),
  };
  const digest = chainDigest(last?.digest ?? BEGINNING, entry);
  await unit.audit.insert([{ ...entry, ...part, details, salt, digest }]);
}
