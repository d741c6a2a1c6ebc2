/** A person decides about what was set aside. Stored bytes are never changed: what was wrong around them is, and then they are processed again. */
import {
  type Actor,
  type AppContext,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { noteDecided } from '../workQueue';
import { QUEUES } from './queues';

export type Decision = 'process again' | 'drop';

const MOST = 500;

/**
 * Processes items again or drops them, each written as `queue:id`. Returns how many; those that somebody else decided
 * about meanwhile are left out. Throws where none is left.
 */
export async function decideSetAside(
  ctx: AppContext,
  actor: Actor,
  keys: readonly string[],
  decision: Decision,
  why = '',
): Promise<number> {
  requireRole(actor, 'administrator');
  if (decision === 'drop' && !why.trim())
    throw invalidText('why', 'The reason is missing.', 'Write why it is not needed, for whoever looks for it later.');
  const chosen = keys.slice(0, MOST).flatMap((key) => {
    const at = key.indexOf(':');
    const queue = QUEUES.find(({ name }) => name === key.slice(0, at));
    return queue ? [{ queue, id: key.slice(at + 1) }] : [];
  });
  let done = 0;
  for (const { queue, id } of chosen)
    await ctx.store.write(async (unit) => {
      const at = ctx.now();
      const row = await unit.failedWork.one({ queue: queue.name, item_id: id, ended_at: null });
      if (row?.aside_at === null || row === undefined) return;
      const changed = await (decision === 'drop' ? queue.drop(unit, id, at, actor.name) : queue.letGo(unit, id, at));
      const how = decision === 'drop' ? 'dropped' : 'processed again';
      // What is gone by now needs no decision any more.
      await noteDecided(unit, queue.name, [id], { how, by: actor.name, at });
      if (!changed) return;
      done += 1;
      await recordAudit(unit, actor, at, {
        action: decision === 'drop' ? 'set-aside.dropped' : 'set-aside.processed-again',
        subject: id,
        summary:
          decision === 'drop'
            ? `Dropped ${queue.item} that was set aside: ${why.trim().slice(0, 200)}`
            : `Processed ${queue.item} again that was set aside: ${row.reason.slice(0, 200)}`,
      });
      await noteChanges(unit, at, [[queue.topic, id]]);
    });
  for (const work of new Set(chosen.map(({ queue }) => queue.work))) ctx.engineWakeUp.ring(work);
  if (done === 0) throw new OperationError('conflict', 'Somebody else has decided about this meanwhile.');
  return done;
}
