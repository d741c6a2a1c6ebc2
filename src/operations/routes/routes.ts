/**
 * The routes of the installation: a draft that is written, and revisions that were published. What
 * is live is the newest revision; nothing of a draft ever takes a message.
 */

import { type CompiledSet, compileSet } from '../../core/routing/decide';
import { EVERYTHING } from '../../core/routing/group';
import { readRouteSet } from '../../core/routing/readSet';
import type { Route, RouteSet, RouteStep } from '../../core/routing/route';
import { newId } from '../../store/ids';
import type { RouteDraftRow, RouteRevisionRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  noteChanges,
  OperationError,
  recordAudit,
  requireReached,
  requireRole,
  type View,
} from '../context';

export const DEFAULT_ROUTE_NAME = 'Everything to the shared desk';

const NO_ROUTES: RouteSet = { routes: [], hours: [] };

export interface LiveRoutes {
  /** 0 while nothing was ever published. */
  number: number;
  compiled: CompiledSet;
}

const kept = new WeakMap<AppContext, LiveRoutes>();

/** What decides now. Compiled again only when another revision was published, in whichever process. */
export async function liveRoutes(ctx: AppContext, tables: Tables & Pick<Unit, 'select'>): Promise<LiveRoutes> {
  const [newest] = await tables.select<{ number: number }>(
    'SELECT number FROM route_revisions ORDER BY number DESC LIMIT 1',
  );
  const number = newest?.number ?? 0;
  const known = kept.get(ctx);
  if (known?.number === number) return known;
  const row = number > 0 ? await tables.routeRevisions.one({ number }) : undefined;
  const live = { number, compiled: compileSet(row?.content ?? NO_ROUTES) };
  kept.set(ctx, live);
  return live;
}

export async function publishedSet(ctx: AppContext): Promise<{ number: number; set: RouteSet }> {
  const { number, compiled } = await liveRoutes(ctx, ctx.store);
  return { number, set: compiled.set };
}

export interface RoutesView {
  published: { number: number; set: RouteSet };
  /** What is being written, where it differs from what is published. */
  draft?: View<RouteDraftRow>;
  /** Newest first, without their content. */
  revisions: View<Omit<RouteRevisionRow, 'content'>>[];
}

export async function getRoutes(ctx: AppContext, actor: Actor): Promise<RoutesView> {
  requireRole(actor, 'viewer');
  const [published, draft, revisions] = await Promise.all([
    publishedSet(ctx),
    ctx.store.routeDrafts.one({ id: 'draft' }),
    ctx.store.select<Omit<RouteRevisionRow, 'content'>>(
      'SELECT number, published_at, by, note FROM route_revisions ORDER BY number DESC LIMIT 50',
    ),
  ]);
  return { published, ...(draft ? { draft: asView(draft) } : {}), revisions: asViews(revisions) };
}

/** `seen`: when the draft was changed that the writer began with; undefined where there was none. */
export async function saveDraft(
  ctx: AppContext,
  actor: Actor,
  content: unknown,
  seen: number | undefined,
): Promise<{ changedAt: number }> {
  requireRole(actor, 'administrator');
  const read = readRouteSet(content);
  if (!read.ok) throw new OperationError('invalid', `The routes cannot be kept: ${read.problem}`);
  return ctx.store.write(async (unit) => {
    const before = await unit.routeDrafts.one({ id: 'draft' });
    if (before && before.changed_at !== seen)
      throw new OperationError(
        'conflict',
        `${before.by} changed the draft while you were writing. Load the page again to see what they wrote.`,
      );
    const at = Math.max(ctx.now(), (before?.changed_at ?? 0) + 1);
    await unit.routeDrafts.put({ id: 'draft', content: read.set, changed_at: at, by: actor.name });
    await noteChanges(unit, at, [['routes', 'draft']]);
    return { changedAt: at };
  });
}

export async function discardDraft(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    await unit.routeDrafts.remove({ id: 'draft' });
    await noteChanges(unit, ctx.now(), [['routes', 'draft']]);
  });
}

/** Publishes the draft as it was seen: what somebody changed in between is not published unseen. */
export async function publishDraft(
  ctx: AppContext,
  actor: Actor,
  { note, seen }: { note: string; seen: number },
): Promise<{ number: number }> {
  requireRole(actor, 'administrator');
  return ctx.store.write(async (unit) => {
    const draft = found(await unit.routeDrafts.one({ id: 'draft' }), 'draft');
    if (draft.changed_at !== seen)
      throw new OperationError('conflict', `${draft.by} changed the draft in between. Look at it before you publish.`);
    await unit.routeDrafts.remove({ id: 'draft' });
    return publish(ctx, unit, actor, draft.content, note.trim());
  });
}

/** An earlier revision decides again, as a new one; the draft stays as it is. */
export async function returnToRevision(ctx: AppContext, actor: Actor, number: number): Promise<{ number: number }> {
  requireRole(actor, 'administrator');
  return ctx.store.write(async (unit) => {
    const row = found(await unit.routeRevisions.one({ number }), 'revision');
    return publish(ctx, unit, actor, row.content, `As revision ${number} was`);
  });
}

async function publish(
  ctx: AppContext,
  unit: Unit,
  actor: Actor,
  content: RouteSet,
  note: string,
): Promise<{ number: number }> {
  const at = ctx.now();
  const [newest] = await unit.select<{ number: number }>('SELECT max(number) AS number FROM route_revisions');
  const number = (newest?.number ?? 0) + 1;
  await unit.routeRevisions.insert([{ number, content, published_at: at, by: actor.name, note }]);
  await recordAudit(unit, actor, at, {
    action: 'routes.published',
    subject: `revision ${number}`,
    summary: `Published revision ${number} of the routes${note ? `: ${note}` : ''}`,
  });
  await noteChanges(unit, at, [['routes', String(number)]]);
  return { number };
}

export function newRoute(id: string, name: string, steps: readonly RouteStep[] = []): Route {
  return { id, name, when: EVERYTHING, steps, goesOn: false, stopsOnReply: false, off: false };
}

/** Tells an app of what the last route takes, or no longer; where there is none, one that takes everything is made. */
export async function routeToApp(ctx: AppContext, actor: Actor, appId: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'app', appId);
  const app = found(await ctx.store.apps.one({ id: appId }), 'app');
  await ctx.store.write(async (unit) => {
    const [row] = await unit.routeRevisions.all(undefined, { order: [['number', 'DESC']], limit: 1 });
    const draft = await unit.routeDrafts.one({ id: 'draft' });
    const note = on ? `${app.name} receives messages` : `${app.name} receives no more messages`;
    await publish(ctx, unit, actor, telling(row?.content ?? NO_ROUTES, appId, on, ctx.now()), note);
    if (draft)
      await unit.routeDrafts.put({
        ...draft,
        content: telling(draft.content, appId, on, ctx.now()),
        changed_at: ctx.now(),
      });
    await noteChanges(unit, ctx.now(), [['app', appId]]);
  });
}

function telling(set: RouteSet, app: string, on: boolean, at: number): RouteSet {
  const last = set.routes.at(-1) ?? newRoute(newId('rte', at), DEFAULT_ROUTE_NAME);
  const others = set.routes.slice(0, -1);
  const tells = (step: RouteStep) => step.do === 'tell' && step.app === app;
  if (!on)
    return { ...set, routes: set.routes.map((route) => ({ ...route, steps: route.steps.filter((s) => !tells(s)) })) };
  if (set.routes.some(({ steps }) => steps.some(tells))) return set;
  return { ...set, routes: [...others, { ...last, steps: [{ do: 'tell', app }, ...last.steps] }] };
}

/** Apps that some live route tells of messages. */
export function appsTold({ routes }: RouteSet): Set<string> {
  return new Set(
    routes.flatMap(({ steps, off }) => (off ? [] : steps.flatMap((step) => (step.do === 'tell' ? [step.app] : [])))),
  );
}
