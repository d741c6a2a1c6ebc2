/** Views of a list that were kept under a name, for everybody: what was found, how it was sorted, which columns. */
import { newId } from '../../store/ids';
import { type Actor, type AppContext, invalidText, requireRole } from '../context';

export interface ListView {
  id: string;
  name: string;
  /** As the address of the page has it. */
  query: string;
}

/** The views of one page, by name. `page`: its path, such as `/watch/messages`. */
export async function listViews(ctx: AppContext, actor: Actor, page: string): Promise<ListView[]> {
  requireRole(actor, 'viewer');
  return ctx.store.select<ListView>('SELECT id, name, query FROM list_views WHERE page = :page ORDER BY name', {
    page,
  });
}

/** One of the same name is replaced. */
export async function keepListView(
  ctx: AppContext,
  actor: Actor,
  input: { page: string; name: string; query: string },
): Promise<void> {
  requireRole(actor, 'agent');
  const name = input.name.trim().slice(0, 80);
  if (!name) throw invalidText('name', 'The view has no name.', 'Say what it shows.');
  if (!/^(\/[\w-]+)+$/.test(input.page)) throw invalidText('name', 'There is no such page.', 'Open the list again.');
  const at = ctx.now();
  await ctx.store.write((unit) =>
    unit.execute(
      `INSERT INTO list_views (id, page, name, query, created_at, by) VALUES (:id, :page, :name, :query, :at, :by)
         ON CONFLICT (page, name) DO UPDATE SET query = excluded.query, created_at = excluded.created_at, by = excluded.by`,
      { id: newId('lgv', at), page: input.page, name, query: input.query.slice(0, 1000), at, by: actor.name },
    ),
  );
}

export async function removeListView(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  await ctx.store.write((unit) => unit.execute('DELETE FROM list_views WHERE id = :id', { id }));
}
