/** Messages whose second way is due, as a queue of the engine. */
import type { AppContext } from '../../context';
import type { WorkQueue } from '../../workQueue';
import { sendQueue } from '../sendQueue';

export const fallbackQueue: WorkQueue = {
  name: 'fallbacks',
  item: 'a message to send another way',
  label: 'Messages to send another way',
  work: 'outbox',
  topic: 'message',
  patience: 3,
  async waiting(ctx: AppContext) {
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      'SELECT count(*) AS items, min(due_at) AS since FROM fallbacks WHERE due_at <= :now',
      { now: ctx.now() },
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  view: sendQueue.view,
  tryAgain: (unit, id, due) => unit.fallbacks.change({ message_id: id }, { due_at: due }),
  setAside: (unit, id) => unit.fallbacks.change({ message_id: id }, { state: 'aside', due_at: null }),
  async letGo(unit, id, at) {
    return (await unit.fallbacks.change({ message_id: id, state: 'aside' }, { state: 'watched', due_at: at })) > 0;
  },
  async drop(unit, id, at, by) {
    const said = `${by} chose not to send it another way`;
    const gone = await unit.fallbacks.change(
      { message_id: id, state: 'aside' },
      { state: 'stays', said, decided_at: at },
    );
    if (gone > 0) await unit.messages.change({ id }, { fallback_to: null });
    return gone > 0;
  },
};
