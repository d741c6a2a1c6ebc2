/** What was set aside, and how the queues stand, as pages show it. */
import { groupBy } from '../../core/groupBy';
import type { FailedWorkRow, QueueName } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  type Reach,
  reachedMessages,
  reachesPage,
  reachOf,
  reachValues,
  requireRole,
  seesEverything,
} from '../context';
import type { ItemView, WorkQueue } from '../workQueue';
import { QUEUES } from './queues';

export interface SetAsideItem extends ItemView {
  /** `queue:id`. */
  key: string;
  queue: QueueName;
  reason: string;
  failures: number;
  /** Epoch milliseconds. */
  since: number;
  /** What a person decided; absent while nobody has. */
  decided?: { how: string; by: string; at: number };
}

const SHOWN = 500;

/** Newest first: what waits for a decision, or what was decided. */
export async function viewSetAside(ctx: AppContext, actor: Actor, decided: boolean): Promise<SetAsideItem[]> {
  requireRole(actor, 'viewer');
  const rows = await ctx.store.select<FailedWorkRow>(
    `SELECT * FROM failed_work WHERE ${decided ? 'ended_at IS NOT NULL' : 'aside_at IS NOT NULL AND ended_at IS NULL'}
      ORDER BY ${decided ? 'ended_at' : 'aside_at'} DESC LIMIT ${SHOWN}`,
  );
  const views = new Map<string, ItemView>();
  for (const [name, group] of groupBy(rows, ({ queue }) => queue)) {
    const queue = QUEUES.find((each) => each.name === name);
    const ids = group.map(({ item_id }) => item_id);
    for (const view of (await queue?.view(ctx, ids)) ?? []) views.set(`${name}:${view.id}`, view);
  }
  const reach = await reachOf(ctx.store, actor);
  const seen = await reachedItems(ctx, reach, views);
  return rows
    .filter(({ queue, item_id }) => seen(`${queue}:${item_id}`))
    .map((row) => {
      const { queue, item_id, reason, failures, aside_at, last_at, ended_at, ended_by, ended_how } = row;
      const key = `${queue}:${item_id}`;
      const gone = { id: item_id, title: `${wordOf(queue)}, deleted meanwhile`, href: '' };
      return {
        ...(views.get(key) ?? gone),
        key,
        queue,
        reason,
        failures,
        since: aside_at ?? last_at,
        ...(ended_at !== null ? { decided: { how: ended_how ?? '', by: ended_by ?? '', at: ended_at } } : {}),
      };
    });
}

/** Which items are for whoever looks: those whose message they reach, or whose channel and app. */
async function reachedItems(
  ctx: AppContext,
  reach: Reach,
  views: ReadonlyMap<string, ItemView>,
): Promise<(key: string) => boolean> {
  if (seesEverything(reach)) return () => true;
  const messageOf = ({ href }: ItemView) => /\bmsg_\w+/.exec(href)?.[0];
  const ids = [...views.values()].flatMap((view) => messageOf(view) ?? []);
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT m.id FROM messages m JOIN json_each(:ids) j ON j.value = m.id WHERE ${reachedMessages(reach, 'm')}`,
    { ids: JSON.stringify(ids), ...reachValues(reach) },
  );
  const reached = new Set(rows.map(({ id }) => id));
  return (key) => {
    const view = views.get(key);
    if (!view) return false;
    const message = messageOf(view);
    if (message) return reached.has(message);
    return reachesPage(reach, view.href) && reachesPage(reach, view.subject?.href ?? '');
  };
}

function wordOf(name: QueueName): string {
  const words = QUEUES.find((each) => each.name === name)?.item.replace(/^an? /, '') ?? name;
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}`;
}

/** How many wait for a decision. */
export async function countSetAside(ctx: AppContext): Promise<number> {
  const [row] = await ctx.store.select<{ n: number }>(
    'SELECT count(*) AS n FROM failed_work WHERE aside_at IS NOT NULL AND ended_at IS NULL',
  );
  return row?.n ?? 0;
}

export interface QueueView {
  name: QueueName;
  label: string;
  waiting: number;
  /** Since when the oldest could have been worked on. */
  since?: number;
  aside: number;
}

/** Every queue with its depth and age. */
export async function viewQueues(ctx: AppContext, actor: Actor): Promise<QueueView[]> {
  requireRole(actor, 'viewer');
  const aside = await ctx.store.select<{ queue: QueueName; n: number }>(
    'SELECT queue, count(*) AS n FROM failed_work WHERE aside_at IS NOT NULL AND ended_at IS NULL GROUP BY queue',
  );
  return Promise.all(
    QUEUES.map(async (queue: WorkQueue) => {
      const { items, since } = await queue.waiting(ctx);
      return {
        name: queue.name,
        label: queue.label,
        waiting: items,
        ...(since !== undefined ? { since } : {}),
        aside: aside.find((each) => each.queue === queue.name)?.n ?? 0,
      };
    }),
  );
}

/** Why an item waits for a decision; undefined where it does not. */
export async function whySetAside(ctx: AppContext, queue: QueueName, id: string): Promise<string | undefined> {
  const row = await ctx.store.failedWork.one({ queue, item_id: id, ended_at: null });
  return row?.aside_at === null ? undefined : row?.reason;
}
