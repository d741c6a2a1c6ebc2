/** Where inbound messages go. There is one route: everything to the shared desk and to chosen apps. */
import { newId } from '../store/ids';
import type { RouteRow } from '../store/rows';
import type { Store, Unit } from '../store/store';
import { type Actor, requireRole } from './actor';
import { recordAudit } from './audit';
import { noteChanges } from './changes';
import { found } from './errors';
import type { Windgap } from './windgap';

export const DEFAULT_ROUTE_NAME = 'Everything to the shared desk';

export async function defaultRoute(store: Store | Unit): Promise<RouteRow | undefined> {
  const [route] = await store.routes.all(undefined, { order: [['position', 'ASC']], limit: 1 });
  return route;
}

/** Adds an app to the default route, or takes it off. */
export async function routeToApp(w: Windgap, actor: Actor, appId: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const app = found(await w.store.apps.one({ id: appId }), 'app');
  const at = w.now();
  await w.store.write(async (unit) => {
    const route = await defaultRoute(unit);
    const others = (route?.app_ids ?? []).filter((id) => id !== appId);
    await unit.routes.put({
      id: route?.id ?? newId('rte', at),
      position: 1,
      name: route?.name ?? DEFAULT_ROUTE_NAME,
      app_ids: on ? [...others, appId] : others,
      changed_at: at,
    });
    await recordAudit(unit, actor, at, {
      action: on ? 'route.app-added' : 'route.app-removed',
      subject: appId,
      summary: on ? `Inbound messages go to ${app.name}` : `Inbound messages no longer go to ${app.name}`,
    });
    await noteChanges(unit, at, [['app', appId]]);
  });
}
