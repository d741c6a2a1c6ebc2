/** Counts where Windgap itself failed at an item, tries it again after a pause, and sets it aside in the end. */

import type { FailedWorkRow, QueueName } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { type AppContext, noteChanges, withoutTokens } from '../context';
import type { WorkQueue } from './workQueue';

const LONGEST_REASON = 500;
const FIRST_PAUSE = 1000;
const LONGEST_PAUSE = 60_000;

/**
 * Notes a failure nobody foresaw at one item. Returns what becomes of it. What is the store's own trouble (disk, lock)
 * is nobody's fault and is thrown.
 */
export async function noteFailure(
  ctx: AppContext,
  queue: WorkQueue,
  id: string,
  error: unknown,
): Promise<'tried again' | 'set aside'> {
  if (isStoreTrouble(error)) throw error;
  // An address that opens something may stand in what failed, and more people read this than may use it.
  const said = withoutTokens(error instanceof Error ? error.message : String(error));
  const reason = said.slice(0, LONGEST_REASON) || 'not known';
  const became = await ctx.store.write(async (unit) => {
    const at = ctx.now();
    // An item that was let go begins to be counted anew.
    await unit.execute(
      `INSERT INTO failed_work (queue, item_id, failures, reason, first_at, last_at) VALUES (:queue, :id, 1, :reason, :at, :at)
         ON CONFLICT (queue, item_id) DO UPDATE SET
           failures = CASE WHEN ended_at IS NULL THEN failures + 1 ELSE 1 END,
           first_at = CASE WHEN ended_at IS NULL THEN first_at ELSE :at END,
           reason = :reason, last_at = :at, aside_at = NULL, ended_at = NULL, ended_by = NULL, ended_how = NULL`,
      { queue: queue.name, id, reason, at },
    );
    const failures = (await unit.failedWork.one({ queue: queue.name, item_id: id }))?.failures ?? 1;
    const over = failures >= queue.patience;
    if (over) {
      await queue.setAside(unit, id, at, reason);
      await unit.failedWork.change({ queue: queue.name, item_id: id }, { aside_at: at });
    } else {
      const pause = Math.min(FIRST_PAUSE * 5 ** (failures - 1), LONGEST_PAUSE);
      await queue.tryAgain(unit, id, at + pause);
    }
    await noteChanges(unit, at, [
      ['queue', queue.name],
      [queue.topic, id],
    ]);
    return over ? ('set aside' as const) : ('tried again' as const);
  });
  ctx.log.error({ err: error, queue: queue.name, item: id }, `${queue.item} failed and is ${became}`);
  return became;
}

/** Notes that an item was set aside at once, inside the unit that does: it was understood, and cannot be worked through as things are. */
export async function noteSetAside(
  unit: Unit,
  queue: QueueName,
  id: string,
  reason: string,
  at: number,
): Promise<void> {
  await unit.failedWork.put({
    queue,
    item_id: id,
    failures: 1,
    reason: reason.slice(0, LONGEST_REASON),
    first_at: at,
    last_at: at,
    aside_at: at,
    ended_at: null,
    ended_by: null,
    ended_how: null,
  });
  await noteChanges(unit, at, [['queue', queue]]);
}

/** Notes what a person decided of items that were set aside. */
export async function noteDecided(
  unit: Unit,
  queue: QueueName,
  ids: readonly string[],
  decision: { how: NonNullable<FailedWorkRow['ended_how']>; by: string; at: number },
): Promise<void> {
  await unit.execute(
    `UPDATE failed_work SET ended_at = :at, ended_by = :by, ended_how = :how
      WHERE queue = :queue AND ended_at IS NULL AND item_id IN (:ids)`,
    { queue, ids: [...ids], ...decision },
  );
  await noteChanges(unit, decision.at, [['queue', queue]]);
}
