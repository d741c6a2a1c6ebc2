/** Changes on trial for a page: those that run, with what is still open, and what became of the others. */
import { untraced } from '../../core/changeTrace';
import type { ChangeTrialRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, noteChanges, requireRole } from '../context';
import { keep, openNeeds, revertChange, runningTrial, wordsOfNeed } from './endTrial';

export interface TrialView {
  id: string;
  what: string;
  by: string;
  /** Epoch milliseconds. */
  begun: number;
  until: number;
  state: ChangeTrialRow['state'];
  said?: string;
  ended?: number;
  /** It ended in a way that somebody should know of, and nobody said that they do. */
  unread: boolean;
  needs: { words: string; of: string; proven: boolean }[];
}

const SHOWN = 100;

export async function listTrials(ctx: AppContext, actor: Actor): Promise<TrialView[]> {
  requireRole(actor, 'administrator');
  const [rows, channels, apps] = await Promise.all([
    ctx.store.changeTrials.readable(),
    ctx.store.channels.all(),
    ctx.store.apps.all(),
  ]);
  const latest = rows.sort((a, b) => (a.id < b.id ? 1 : -1)).slice(0, SHOWN);
  const names = new Map([...channels, ...apps].map(({ id, name }) => [id, name]));
  return Promise.all(
    latest.map(async (row) => {
      const open = row.state === 'running' ? await openNeeds(ctx, row) : [];
      return {
        id: row.id,
        what: row.what,
        by: row.by_name,
        begun: row.begun_at,
        until: row.until_at,
        state: row.state,
        ...(row.said === null ? {} : { said: row.said }),
        ...(row.ended_at === null ? {} : { ended: row.ended_at }),
        unread: row.seen_at === null && (row.state === 'reverted' || row.state === 'stuck'),
        needs: row.needs.map((need) => ({
          words: wordsOfNeed(need),
          of: need.kind === 'hop' ? need.anyOf.map((id) => names.get(id) ?? id).join(' or ') : '',
          proven: !open.includes(need),
        })),
      };
    }),
  );
}

export async function keepTrial(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  await keep(ctx, actor, await runningTrial(ctx, id), `${actor.name} kept it.`);
}

export async function revertTrial(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const trial = await runningTrial(ctx, id);
  // Whoever makes changes on trial makes this one for good.
  await untraced(() => revertChange(ctx, actor, trial, `${actor.name} reverted it.`));
}

/** Somebody has read what became of it: Readiness says it no longer. */
export async function readTrial(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    found(await unit.changeTrials.one({ id }), 'trial');
    await unit.changeTrials.change({ id }, { seen_at: at });
    await noteChanges(unit, at, [['trial', id]]);
  });
}
