/** While somebody practises on the bench, its faults are hidden and nobody else sets it. */
import { type AppContext, OperationError } from '../context';

/** Whoever sets the bench while a drill runs would see its fault, or take it away. */
export async function refuseDuringDrill(ctx: AppContext): Promise<void> {
  if (await drillRuns(ctx))
    throw new OperationError('conflict', 'A drill is running: the bench is set again when it ends.');
}

/** Whether the fault switches are to be kept out of sight. */
export async function drillRuns(ctx: AppContext): Promise<boolean> {
  return (await ctx.store.drills.count({ ended_at: null })) > 0;
}
