import { isStoreTrouble } from '../../store/trouble';
import type { AppContext } from '../context';
import { noteFailure } from './failures';
import type { WorkQueue } from './workQueue';

/**
 * Works on many items at once, and where that fails on each by itself, so that what is wrong with one stops no other. What
 * fails alone is counted against that item. Returns what the work returned, once or for each that went through.
 */
export async function aloneAfterFailure<Result>(
  ctx: AppContext,
  queue: WorkQueue,
  ids: readonly string[],
  work: (ids: readonly string[]) => Promise<Result>,
): Promise<Result[]> {
  if (ids.length === 0) return [];
  try {
    return [await work(ids)];
  } catch (error) {
    // What keeps the store from working keeps it from all of them, and passes.
    if (isStoreTrouble(error)) throw error;
    ctx.log.warn({ err: error, queue: queue.name, items: ids.length }, 'working through items one by one');
  }
  const results: Result[] = [];
  for (const id of ids)
    try {
      results.push(await work([id]));
    } catch (error) {
      await noteFailure(ctx, queue, id, error);
    }
  return results;
}
