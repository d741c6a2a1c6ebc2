/** Routes of an installation: written in few words and published. */
import type { Condition } from '../../src/core/routing/conditions';
import type { Group } from '../../src/core/routing/group';
import type { Route, RouteSet, RouteStep } from '../../src/core/routing/route';
import { SYSTEM } from '../../src/operations/context/actor';
import type { AppContext } from '../../src/operations/context/appContext';
import { getRoutes, publishDraft, saveDraft } from '../../src/operations/routes/routes';

export const all = (...of: Group['of']): Group => ({ match: 'all', of });
export const begins = (word: string): Condition => ({ on: 'keyword', way: 'begins', words: [word] });

export const route = (id: string, when: Group, steps: RouteStep[], more: Partial<Route> = {}): Route => ({
  id,
  name: id,
  when,
  steps,
  goesOn: false,
  stopsOnReply: false,
  off: false,
  ...more,
});

/** In the place of whatever draft there is. Answers when it was changed, as publishing wants to know. */
export async function draftRoutes(ctx: AppContext, routes: Route[], hours: RouteSet['hours'] = []): Promise<number> {
  const { draft } = await getRoutes(ctx, SYSTEM);
  return (await saveDraft(ctx, SYSTEM, { routes, hours }, draft?.changedAt)).changedAt;
}

/** Returns the number of the revision. */
export async function publishRoutes(ctx: AppContext, routes: Route[], hours: RouteSet['hours'] = []): Promise<number> {
  const seen = await draftRoutes(ctx, routes, hours);
  return (await publishDraft(ctx, SYSTEM, { note: '', seen })).number;
}
