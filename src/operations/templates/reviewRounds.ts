/** Asks platforms after templates whose time has come. */
import type { AppContext } from '../context';
import { aloneAfterFailure } from '../workQueue';
import { reviewQueue } from './reviewQueue';
import { askAfter } from './templateReviews';
import { settleSubmissions } from './templateSubmissions';

/** Asks after every version whose time has come. Returns in how many milliseconds the next one is due. */
export async function checkReviews(ctx: AppContext): Promise<number | undefined> {
  await settleSubmissions(ctx);
  const due = await ctx.store.select<{ template_id: string }>(
    `SELECT DISTINCT template_id FROM template_versions WHERE next_check_at <= :at ORDER BY next_check_at LIMIT 20`,
    { at: ctx.now() },
  );
  // A platform whose profile or answer fails Windgap keeps no other template from being asked after.
  for (const { template_id } of due)
    await aloneAfterFailure(ctx, reviewQueue, [template_id], ([id = '']) => askAfter(ctx, id));
  const [next] = await ctx.store.select<{ at: number | null }>(
    `SELECT min(next_check_at) AS at FROM template_versions`,
  );
  return next?.at ? Math.max(0, next.at - ctx.now()) : undefined;
}
