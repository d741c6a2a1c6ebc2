import { newId } from '../../store/ids';
import type { AuditRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, requireRole } from './actor';
import type { AppContext } from './appContext';
import { asViews, type View } from './view';

interface AuditNote {
  action: string;
  subject: string;
  summary: string;
  details?: Record<string, unknown>;
}

/** Writes who changed what in the same unit as the change, so that neither exists without the other. */
export async function recordAudit(unit: Unit, actor: Actor, at: number, note: AuditNote): Promise<void> {
  await unit.audit.insert([
    {
      id: newId('aud', at),
      at,
      actor_kind: actor.kind,
      actor_id: actor.id,
      actor_name: actor.name,
      action: note.action,
      subject_id: note.subject,
      summary: note.summary,
      details: note.details ?? null,
    },
  ]);
}

export async function listAudit(ctx: AppContext, actor: Actor): Promise<View<AuditRow>[]> {
  requireRole(actor, 'administrator');
  return asViews(await ctx.store.audit.all(undefined, { order: [['id', 'DESC']], limit: 200 }));
}
