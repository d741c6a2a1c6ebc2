/** Keeps the second way of messages in step with what becomes of the first. */
import type { MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';

const ARRIVED: readonly MessageRow['state'][] = ['delivered', 'read'];

/**
 * Of messages that have just moved on: a second way is looked at at once where the first failed, and is over where it
 * arrived. Returns messages that were ordered as a second way, have not left, and are not needed any more.
 */
export async function followFirstWay(unit: Unit, moved: readonly MessageRow[], at: number): Promise<string[]> {
  const watched = moved.filter(({ fallback_to }) => fallback_to !== null);
  const failed = watched.filter(({ state }) => state === 'failed').map(({ id }) => id);
  const arrived = watched.filter(({ state }) => ARRIVED.includes(state)).map(({ id }) => id);
  if (failed.length > 0)
    await unit.execute(
      `UPDATE fallbacks SET due_at = :at WHERE message_id IN (:failed) AND state IN ('watched', 'waits')`,
      { at, failed },
    );
  if (arrived.length === 0) return [];
  await unit.execute(`DELETE FROM fallbacks WHERE message_id IN (:arrived) AND state IN ('watched', 'waits')`, {
    arrived,
  });
  const gone = await unit.select<{ message_id: string }>(
    `DELETE FROM outbox WHERE state = 'due' AND attempts = 0
        AND message_id IN (SELECT next_id FROM fallbacks WHERE message_id IN (:arrived)) RETURNING message_id`,
    { arrived },
  );
  return gone.map(({ message_id }) => message_id);
}
