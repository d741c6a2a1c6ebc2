/** Notices queues that stand still: whose oldest item stays the same though the engine runs. */
import type { QueueName } from '../../store/schema/rows';
import type { AppContext } from '../context';
import { QUEUES } from './queues';

const SETTING = 'stuck-queues';

/** So long the same item may be the oldest; texts wait for pace and trunks, which the channels’ own check knows. */
const PATIENCE: Partial<Record<QueueName, number>> = {
  inbound: 60_000,
  events: 2 * 60_000,
  runs: 2 * 60_000,
  reviews: 10 * 60_000,
};

export interface StuckQueue {
  queue: QueueName;
  items: number;
  since: number;
}

/** Durations go by the monotonic clock: a bench that moves the time on makes nothing stand still. */
export function createQueueWatch(ctx: AppContext): { look(): Promise<void> } {
  const oldest = new Map<QueueName, { since: number; seenAt: number }>();
  let written: string | undefined;
  return {
    async look() {
      const now = ctx.clock.elapsed();
      const stuck: StuckQueue[] = [];
      for (const { name, waiting } of QUEUES) {
        const patience = PATIENCE[name];
        if (patience === undefined) continue;
        const { items, since } = await waiting(ctx);
        const before = oldest.get(name);
        if (since === undefined) oldest.delete(name);
        else if (before?.since !== since) oldest.set(name, { since, seenAt: now });
        else if (now - before.seenAt > patience) stuck.push({ queue: name, items, since });
      }
      const text = JSON.stringify(stuck);
      if (text === written) return;
      await ctx.store.write((unit) => unit.settings.put({ name: SETTING, value: stuck }));
      written = text;
    },
  };
}

/** Queues that stand still, as the engine wrote it down. */
export async function readStuckQueues(ctx: AppContext): Promise<StuckQueue[]> {
  return ((await ctx.store.settings.one({ name: SETTING }))?.value as StuckQueue[] | undefined) ?? [];
}
