/** Templates whose platform is to be asked after, as a queue of the engine. */
import type { WorkQueue } from '../workQueue';

export const reviewQueue: WorkQueue = {
  name: 'reviews',
  item: 'a template in review',
  label: 'Templates in review',
  work: 'reviews',
  topic: 'template',
  patience: 5,
  async waiting(ctx) {
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      `SELECT count(DISTINCT template_id) AS items, min(next_check_at) AS since FROM template_versions WHERE next_check_at <= :now`,
      { now: ctx.now() },
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  async view(ctx, ids) {
    const rows = await ctx.store.select<{
      id: string;
      name: string;
      account_id: string | null;
      account: string | null;
    }>(
      `SELECT t.id, t.name, t.account_id, a.name AS account FROM templates t LEFT JOIN provider_accounts a ON a.id = t.account_id
        WHERE t.id IN (:ids)`,
      { ids: [...ids] },
    );
    return rows.map(({ id, name, account_id, account }) => ({
      id,
      title: `Review of ${name}`,
      href: `/compose/templates/${id}`,
      ...(account ? { subject: { name: account, href: `/connect/providers/${account_id}` } } : {}),
    }));
  },
  async tryAgain(unit, id, due) {
    await unit.execute(
      `UPDATE template_versions SET next_check_at = :due WHERE template_id = :id AND next_check_at IS NOT NULL`,
      { id, due },
    );
    await unit.execute(
      `UPDATE templates SET submitting = json_set(submitting, '$.at', :due) WHERE id = :id AND submitting IS NOT NULL`,
      { id, due },
    );
  },
  async setAside(unit, id) {
    await unit.execute(`UPDATE template_versions SET next_check_at = NULL WHERE template_id = :id`, { id });
    // What became of a submission is not known then; the platform says so when it is submitted again.
    await unit.execute(`UPDATE templates SET submitting = NULL WHERE id = :id`, { id });
  },
  async letGo(unit, id, at) {
    const changed = await unit.execute(
      `UPDATE template_versions SET next_check_at = :at WHERE template_id = :id AND state IN ('in-review', 'approved', 'paused')`,
      { id, at },
    );
    return changed > 0;
  },
  // What stands stays as it is; nobody asks any more.
  drop: () => Promise.resolve(true),
};
