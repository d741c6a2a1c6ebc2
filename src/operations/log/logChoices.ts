/** What the log can be narrowed by: only what occurs. */
import { countryName } from '../../core/addresses/display';
import { type CauseCode, cause } from '../../core/delivery/causes';
import { type Actor, type AppContext, reachesApp, reachesChannel, reachOf, requireRole } from '../context';
import { publishedSet } from '../routes';

export interface LogChoices {
  channels: [string, string][];
  causes: [string, string][];
  countries: [string, string][];
  /** Apps and routes that send. */
  origins: [string, string][];
  routes: [string, string][];
}

/** Distinct values are stepped through an index, one seek each, however many rows there are. */
const distinct = (column: string) =>
  `WITH RECURSIVE each (value) AS (
     SELECT min(${column}) FROM messages WHERE ${column} IS NOT NULL
     UNION ALL SELECT (SELECT min(${column}) FROM messages WHERE ${column} > each.value) FROM each WHERE each.value IS NOT NULL)
   SELECT value FROM each WHERE value IS NOT NULL LIMIT 300`;

export async function logChoices(ctx: AppContext, actor: Actor): Promise<LogChoices> {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const [channels, causes, countries, apps, { set }] = await Promise.all([
    ctx.store.channels.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.select<{ value: CauseCode }>(distinct('cause')),
    ctx.store.select<{ value: string }>(distinct('country')),
    ctx.store.apps.all(undefined, { order: [['name', 'ASC']] }),
    publishedSet(ctx),
  ]);
  const byName = (pairs: [string, string][]) => pairs.sort((a, b) => a[1].localeCompare(b[1]));
  const routes = set.routes.map(({ id, name }): [string, string] => [id, name]);
  return {
    channels: channels.filter(({ id }) => reachesChannel(reach, id)).map(({ id, name }) => [id, name]),
    causes: byName(causes.map(({ value }) => [value, cause(value).title])),
    countries: byName(countries.map(({ value }) => [value, countryName(value)])),
    origins: [
      ...apps.filter(({ id }) => reachesApp(reach, id)).map(({ id, name }): [string, string] => [id, name]),
      ...routes,
    ],
    routes,
  };
}
