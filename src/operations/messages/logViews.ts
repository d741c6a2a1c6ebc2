/** Views of the log that were kept under a name, for everybody. */
import { newId } from '../../store/ids';
import { type Actor, requireRole } from '../context/actor';
import type { AppContext } from '../context/appContext';
import { invalidText } from '../context/errors';

export interface LogView {
  id: string;
  name: string;
  /** As the address of the log has it. */
  query: string;
}

export async function logViews(ctx: AppContext, actor: Actor): Promise<LogView[]> {
  requireRole(actor, 'viewer');
  return ctx.store.select<LogView>('SELECT id, name, query FROM log_views ORDER BY name');
}

/** One of the same name is replaced. */
export async function keepLogView(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; query: string },
): Promise<void> {
  requireRole(actor, 'agent');
  const name = input.name.trim().slice(0, 80);
  if (!name) throw invalidText('name', 'The view has no name.', 'Say what it shows.');
  const at = ctx.now();
  await ctx.store.write((unit) =>
    unit.execute(
      `INSERT INTO log_views (id, name, query, created_at, by) VALUES (:id, :name, :query, :at, :by)
         ON CONFLICT (name) DO UPDATE SET query = excluded.query, created_at = excluded.created_at, by = excluded.by`,
      { id: newId('lgv', at), name, query: input.query.slice(0, 1000), at, by: actor.name },
    ),
  );
}

export async function removeLogView(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  await ctx.store.write((unit) => unit.execute('DELETE FROM log_views WHERE id = :id', { id }));
}
