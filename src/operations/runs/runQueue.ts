/** Runs that wait for their next step, as a queue of the engine. */
import type { RunSource } from '../../store/schema/rows';
import type { AppContext } from '../context';
import type { WorkQueue } from '../workQueue';

const WORDS: Readonly<Record<RunSource, string>> = {
  hook: 'Run of a send hook',
  record: 'Run of a record action',
  'sheet-row': 'Row of a sheet',
  'sheet-append': 'Row for a sheet',
  feed: 'Reminder of a calendar',
  phone: 'Answer to a call',
  notice: 'Notice by mail',
  route: 'Steps of a route',
};

export const runQueue: WorkQueue = {
  name: 'runs',
  item: 'a run of an automation',
  label: 'Runs of automations',
  work: 'runs',
  topic: 'run',
  patience: 3,
  async waiting(ctx) {
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      `SELECT count(*) AS items, min(due_at) AS since FROM runs
        WHERE state IN ('due', 'waiting') AND lease_owner IS NULL AND due_at <= :now`,
      { now: ctx.now() },
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  async view(ctx: AppContext, ids) {
    const rows = await ctx.store.select<{
      id: string;
      source: RunSource;
      subject_id: string;
      app_id: string;
      app: string | null;
    }>(
      `SELECT r.id, r.source, r.subject_id, r.app_id, a.name AS app FROM runs r LEFT JOIN apps a ON a.id = r.app_id WHERE r.id IN (:ids)`,
      { ids: [...ids] },
    );
    return rows.map(({ id, source, subject_id, app_id, app }) => ({
      id,
      title: WORDS[source] ?? 'Run of an automation',
      href: subject_id.startsWith('msg_') ? `/watch/messages/${subject_id}` : app ? `/apps/${app_id}` : '/route/routes',
      ...(app ? { subject: { name: app, href: `/apps/${app_id}` } } : {}),
    }));
  },
  // Plain statements: what is wrong with a run may be that it cannot be read.
  tryAgain: (unit, id, due) =>
    unit.execute(`UPDATE runs SET lease_owner = NULL, leased_at = NULL, due_at = :due WHERE id = :id`, { id, due }),
  setAside: (unit, id) =>
    unit.execute(`UPDATE runs SET state = 'aside', lease_owner = NULL, leased_at = NULL WHERE id = :id`, { id }),
  async letGo(unit, id, at) {
    return (
      (await unit.execute(`UPDATE runs SET state = 'due', due_at = :at WHERE id = :id AND state = 'aside'`, {
        id,
        at,
      })) > 0
    );
  },
  async drop(unit, id, at) {
    return (
      (await unit.execute(`UPDATE runs SET state = 'cancelled', ended_at = :at WHERE id = :id AND state = 'aside'`, {
        id,
        at,
      })) > 0
    );
  },
};
