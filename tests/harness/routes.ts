/** Routes of an installation: written in few words and published. */
import type { Condition, Group } from '../../src/core/routing/conditions';
import type { Route, RouteSet, RouteStep } from '../../src/core/routing/route';
import { SYSTEM } from '../../src/operations/actor';
import { getRoutes, publishDraft, saveDraft } from '../../src/operations/routes';
import type { Windgap } from '../../src/operations/windgap';

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
export async function draftRoutes(w: Windgap, routes: Route[], hours: RouteSet['hours'] = []): Promise<number> {
  const { draft } = await getRoutes(w, SYSTEM);
  return (await saveDraft(w, SYSTEM, { routes, hours }, draft?.changed_at)).changedAt;
}

/** Answers the number of the revision. */
export async function publishRoutes(w: Windgap, routes: Route[], hours: RouteSet['hours'] = []): Promise<number> {
  const seen = await draftRoutes(w, routes, hours);
  return (await publishDraft(w, SYSTEM, { note: '', seen })).number;
}
