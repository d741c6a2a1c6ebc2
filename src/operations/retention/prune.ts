/** Removes what is older than it is kept for: a little at a time, so that nobody's write waits for it. */
import type { AppContext } from '../context';
import { boundsOf, RETENTION } from './kinds';
import { daysKept } from './retention';

const DAY = 86_400_000;
/** Rows in one unit: a few milliseconds. */
const AT_ONCE = 1000;
const BETWEEN = 20;
/** Of one round; what is left is removed in the next ones. */
const LONGEST = 10_000;

/** Returns how many rows were removed. `stopping` ends it between two units. */
export async function prune(ctx: AppContext, stopping: () => boolean = () => false): Promise<number> {
  const kept = await daysKept(ctx);
  const since = ctx.clock.elapsed();
  let removed = 0;
  for (const { name, usual, rows } of RETENTION)
    for (const { table, where, ids, key = 'rowid' } of rows) {
      const bounds = boundsOf(ids, ctx.now() - (kept.get(name) ?? usual) * DAY);
      let some = AT_ONCE;
      while (some === AT_ONCE && !stopping() && ctx.clock.elapsed() - since < LONGEST) {
        some = await removeSome(ctx, { table, where, key }, bounds);
        removed += some;
        if (some === AT_ONCE) await ctx.clock.pause(BETWEEN);
      }
    }
  return removed;
}

/** Looked for outside the unit, so that the lock is held for removing alone. */
async function removeSome(
  ctx: AppContext,
  { table, where, key }: { table: string; where: string; key: string },
  bounds: Record<string, unknown>,
): Promise<number> {
  const rows = await ctx.store.select<{ key: string | number }>(
    `SELECT ${key} AS key FROM ${table} WHERE ${where} LIMIT ${AT_ONCE}`,
    bounds,
  );
  if (rows.length === 0) return 0;
  await ctx.store.write(
    (unit) =>
      unit.execute(`DELETE FROM ${table} WHERE ${key} IN (:keys) AND ${where}`, {
        ...bounds,
        keys: rows.map((row) => row.key),
      }),
    { durable: false },
  );
  return rows.length;
}
