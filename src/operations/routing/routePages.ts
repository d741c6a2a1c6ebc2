/** Routes as people look at them: names for their ids, what they were last hit by, why a message went where it did. */

import { displayAddress } from '../../core/addresses/display';
import { channelKind } from '../../core/connect/channelKinds';
import type { Finding } from '../../core/finding';
import type { Arrival } from '../../core/routing/arrival';
import { type ExplainedRoute, explain } from '../../core/routing/explain';
import { namesOf, type RouteChoices } from '../../core/routing/names';
import { examineRoutes, examineSteps, type RouteFinding, type RouteSurroundings } from '../../core/routing/overlap';
import { type RouteSet, stepsOf } from '../../core/routing/route';
import { allVariables } from '../../core/templates/template';
import type { RoutingFacts } from '../../core/trail/inbound';
import type { MessageRoutingRow } from '../../store/schema/rows';
import { automationPage, listApps } from '../apps';
import {
  type Actor,
  type AppContext,
  reachedMessages,
  reachesApp,
  reachesChannel,
  reachOf,
  reachValues,
  requireReachedMessage,
  requireRole,
} from '../context';
import { countriesOursFirst, readOrganisation } from '../organisation';
import { offeredTemplates, problemOf, servedContent } from '../templates';
import { arrivalsOf, DAY } from './routing';

export async function routeChoices(ctx: AppContext, actor: Actor): Promise<RouteChoices> {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const byName: { order: ['name', 'ASC'][] } = { order: [['name', 'ASC']] };
  const [channels, everyApp, accounts, actions, sheets, templates, people, teams, tags, attributes, languages] =
    await Promise.all([
      ctx.store.channels.all(undefined, byName),
      ctx.store.apps.all(undefined, byName),
      ctx.store.appAccounts.all(),
      ctx.store.recordActions.all({ disabled_at: null }, byName),
      ctx.store.sheets.all({ way: 'append', disabled_at: null }, byName),
      ctx.store.templates.all({ archived_at: null, kind: ['platform', 'plain'] }, byName),
      ctx.store.users.all({ disabled_at: null }, byName),
      ctx.store.teams.all(undefined, byName),
      ctx.store.select<{ tag: string }>('SELECT DISTINCT tag FROM contact_tags LIMIT 500'),
      ctx.store.select<{ name: string }>('SELECT DISTINCT name FROM contact_attributes LIMIT 500'),
      ctx.store.select<{ language: string }>(
        'SELECT DISTINCT language FROM contacts WHERE merged_into IS NULL AND language IS NOT NULL LIMIT 100',
      ),
    ]);
  const apps = everyApp.filter(({ id }) => reachesApp(reach, id));
  const ofReached = <Row extends { app_id: string }>(rows: Row[]) =>
    rows.filter(({ app_id }) => reachesApp(reach, app_id));
  const appName = new Map(apps.map(({ id, name }) => [id, name]));
  const records = ofReached(accounts).flatMap(({ app_id, connector }) =>
    ctx.apps.get(connector).records.map((type) => ({ ...type, app_id, where: appName.get(app_id) ?? '' })),
  );
  const named = (type: (typeof records)[number]): [string, string] => [
    `${type.app_id} ${type.id}`,
    `${type.label.toLowerCase()} at ${type.where}`,
  ];
  return {
    channels: channels.filter(({ id }) => reachesChannel(reach, id)).map(({ id, name }) => [id, name]),
    counted: records.filter(({ countable }) => countable).map(named),
    owned: records.filter(({ findable }) => findable).map(named),
    apps: apps.map(({ id, name }) => [id, name]),
    actions: ofReached(actions).map(({ id, name, app_id }) => [id, `${name} (${appName.get(app_id) ?? ''})`]),
    sheets: ofReached(sheets).map(({ id, name }) => [id, name]),
    templates: templates.map(({ id, name }) => [id, name]),
    // Of a plain text nobody can tell afterwards that it was made of a template.
    answerable: templates.flatMap(({ id, name, kind }): [string, string][] =>
      kind === 'platform' ? [[id, name]] : [],
    ),
    offers: await offeredTemplates(ctx, actor),
    people: people.map(({ id, name }) => [id, name]),
    teams: teams.map(({ name }) => name),
    tags: tags.map(({ tag }) => tag).sort(),
    attributes: attributes.map(({ name }) => name).sort(),
    languages: languages.map(({ language }) => language).sort(),
    countries: await countriesOursFirst(ctx.store),
    zone: (await readOrganisation(ctx.store)).zone,
  };
}

/** Hits of the last seven days, by route. */
export async function routeHits(ctx: AppContext): Promise<Record<string, number>> {
  const rows = await ctx.store.select<{ route_id: string; n: number }>(
    'SELECT route_id, sum(hits) AS n FROM route_hits WHERE day > :since GROUP BY route_id',
    { since: Math.floor(ctx.now() / DAY) - 7 },
  );
  return Object.fromEntries(rows.map(({ route_id, n }) => [route_id, n]));
}

/** What the installation has and lacks for the steps of a set. */
export async function surroundingsOf(ctx: AppContext, set: RouteSet): Promise<RouteSurroundings> {
  const [channels, numbers, apps, actions, sheets, accounts] = await Promise.all([
    ctx.store.channels.all(),
    ctx.store.numbers.all(),
    ctx.store.apps.all(),
    ctx.store.recordActions.all(),
    ctx.store.sheets.all({ way: 'append' }),
    ctx.store.appAccounts.all(),
  ]);
  const steps = set.routes.flatMap((route) => stepsOf(route.steps));
  const templates = new Set(
    steps.flatMap((step) => (step.do === 'reply' && 'template' in step ? [step.template] : [])),
  );
  const templateProblems: Record<string, string> = {};
  const templateVariables: Record<string, string[]> = {};
  for (const id of templates) {
    const problem: Finding | undefined = await problemOf(ctx.store, id);
    if (problem) templateProblems[id] = problem.problem;
    const served = await servedContent(ctx.store, id);
    if (served) templateVariables[id] = allVariables(served.content.variants);
  }
  const problems: Record<string, string> = {};
  for (const step of steps) {
    if (step.do === 'tell' && !apps.some(({ id }) => id === step.app)) problems[step.app] = 'An app it tells is gone.';
    if (step.do === 'append' && !sheets.some(({ id, disabled_at }) => id === step.sheet && disabled_at === null))
      problems[step.sheet] = 'A sheet it adds rows to is gone or switched off.';
    if (step.do !== 'record') continue;
    const action = actions.find(({ id }) => id === step.action);
    const app = apps.find(({ id }) => id === action?.app_id);
    if (!action || action.disabled_at !== null)
      problems[step.action] = 'A record action it uses is gone or switched off.';
    else if (!accounts.some(({ app_id }) => app_id === action.app_id))
      problems[step.action] = `The records of ${app?.name ?? 'its app'} are not connected.`;
    else if (action.by_route === 0)
      problems[step.action] = `“${action.name}” is done for every message already, so this route would do it twice.`;
  }
  return {
    silent: channels
      .filter(
        ({ number_id, kind }) =>
          !channelKind(kind).hosted && !numbers.find(({ id }) => id === number_id)?.abilities.includes('text-out'),
      )
      .map(({ id, name }) => ({ id, name })),
    templateProblems,
    templateVariables,
    problems,
  };
}

/** What routes do to each other changes only with them; templates and apps change far more often. */
let overlaps: { of: string; findings: RouteFinding[] } | undefined;

function overlapsOf(set: RouteSet, channels: readonly { id: string; name: string }[]): RouteFinding[] {
  const of = JSON.stringify([set.routes, channels.map(({ id, name }) => [id, name])]);
  if (overlaps?.of !== of) overlaps = { of, findings: examineRoutes(set, channels) };
  return overlaps.findings;
}

/** Everything the examination has to say of a set. */
export async function examineSet(ctx: AppContext, actor: Actor, set: RouteSet): Promise<RouteFinding[]> {
  requireRole(actor, 'viewer');
  const channels = await ctx.store.channels.all();
  return [
    ...overlapsOf(set, channels),
    ...examineSteps(set, await surroundingsOf(ctx, set)),
    ...(await twoKinds(ctx, set)),
  ];
}

/** One person becomes two kinds of record of one app, a lead and a contact say, because two actions do both. */
async function twoKinds(ctx: AppContext, set: RouteSet): Promise<RouteFinding[]> {
  const actions = await ctx.store.recordActions.all({ disabled_at: null });
  const accounts = new Map((await ctx.store.appAccounts.all()).map((row) => [row.app_id, row]));
  const ofPeople = (id: string) => {
    const action = actions.find((each) => each.id === id);
    const account = action && accounts.get(action.app_id);
    const types = account ? ctx.apps.get(account.connector).records : [];
    const type = types.find((each) => each.id === action?.record);
    // What cannot be counted as open is about the person, not about a matter of theirs.
    return action && type && !type.countable ? { action, type } : undefined;
  };
  const always = actions.filter(({ by_route }) => by_route === 0).map(({ id }) => id);
  return set.routes
    .filter(({ off }) => !off)
    .flatMap((route): RouteFinding[] => {
      const used = [...always, ...stepsOf(route.steps).flatMap((step) => (step.do === 'record' ? [step.action] : []))];
      const people = used.flatMap((id) => ofPeople(id) ?? []);
      const pair = people.find(({ action, type }) =>
        people.some((other) => other.action.app_id === action.app_id && other.type.id !== type.id),
      );
      const other = people.find((each) => each.action.app_id === pair?.action.app_id && each.type.id !== pair?.type.id);
      if (!pair || !other || !stepsOf(route.steps).some((step) => step.do === 'record')) return [];
      return [
        {
          code: 'records-of-two-kinds',
          severity: 'error',
          route: route.id,
          problem: `One message through “${route.name}” makes both a ${pair.type.label.toLowerCase()} and a ${other.type.label.toLowerCase()} of the same person: by “${pair.action.name}” and by “${other.action.name}”.`,
          remedy: 'Keep one of them; or let each be done only where a route says so, in routes that do not meet.',
        },
      ];
    });
}

/** What was decided of a message, for its trail. */
export async function routingFacts(ctx: AppContext, messageId: string): Promise<RoutingFacts | undefined> {
  const row = await ctx.store.messageRoutings.one({ message_id: messageId });
  if (!row) return undefined;
  const [explained, runs] = await Promise.all([
    explainRouting(ctx, row),
    ctx.store.runs.all({ subject_id: messageId, source: 'route' }, { order: [['id', 'ASC']] }),
  ]);
  const taken = explained.filter(({ outcome }) => outcome === 'taken');
  return {
    outcome: row.outcome,
    routes: row.routes.map(({ name }) => name),
    revision: row.revision,
    at: row.at,
    cause: row.cause ?? undefined,
    because: row.outcome === 'routed' || row.outcome === 'held' ? taken.flatMap(({ when }) => reasons(when)) : [],
    steps: runs.flatMap(({ results, state, due_at }) => [
      ...results.flatMap((result) =>
        result.said || result.finding
          ? [
              {
                said: result.said,
                at: result.at,
                failed:
                  result.did === 'failed' && result.finding
                    ? { problem: result.finding.problem, remedy: result.finding.remedy }
                    : undefined,
              },
            ]
          : [],
      ),
      ...(state === 'waiting'
        ? [{ said: `until ${new Date(due_at).toISOString()} or an answer`, at: due_at, waits: true }]
        : []),
    ]),
  };
}

/** Every route of the revision that decided, asked with the facts it was asked with. */
export async function explainRouting(ctx: AppContext, row: MessageRoutingRow): Promise<ExplainedRoute[]> {
  const revision = await ctx.store.routeRevisions.one({ number: row.revision });
  if (!revision) return [];
  const names = namesOf(await routeChoices(ctx, { kind: 'system', id: 'windgap', name: 'Windgap' }), revision.content);
  return explain(revision.content, row.facts, names);
}

function reasons(group: ExplainedRoute['when']): string[] {
  return group.parts.flatMap((part) =>
    part.kind === 'group' ? reasons(part) : part.answer ? [`Because ${part.words}: ${part.saw}`] : [],
  );
}

export interface PastMessage {
  id: string;
  text: string;
  from: string;
}

/** Messages a dry run can begin with, newest first. */
export async function pastMessages(ctx: AppContext, actor: Actor): Promise<PastMessage[]> {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const rows = await ctx.store.select<{ id: string; text: string; sender: string; name: string | null }>(
    `SELECT m.id, m.text, m.sender, c.name FROM messages m JOIN contacts c ON c.id = m.contact_id
      WHERE m.direction = 'in' AND ${reachedMessages(reach, 'm')} ORDER BY m.id DESC LIMIT 40`,
    reachValues(reach),
  );
  return rows.map(({ id, text, sender, name }) => ({ id, text, from: name ?? displayAddress(sender) }));
}

/** What was known of a message when it came in; of one from before routes were kept, what is known today. */
export async function pastArrival(ctx: AppContext, actor: Actor, id: string): Promise<Arrival | undefined> {
  requireRole(actor, 'viewer');
  await requireReachedMessage(ctx.store, actor, id);
  const row = await ctx.store.messageRoutings.one({ message_id: id });
  if (row) return row.facts;
  const message = await ctx.store.messages.one({ id, direction: 'in' });
  return message && (await arrivalsOf(ctx.store, [message], new Map(), 0)).get(id);
}

export interface OtherAutomation {
  id: string;
  what: string;
  name: string;
  app: string;
  href: string;
  /** In seven days. */
  runs: number;
}

/** What sends by itself without a message coming in. */
export async function automationsBySource(ctx: AppContext, actor: Actor): Promise<OtherAutomation[]> {
  requireRole(actor, 'viewer');
  const apps = await listApps(ctx, actor);
  const counted = await ctx.store.select<{ source_id: string; n: number }>(
    'SELECT source_id, count(*) AS n FROM runs WHERE created_at > :since GROUP BY source_id',
    { since: ctx.now() - 7 * DAY },
  );
  const runs = new Map(counted.map(({ source_id, n }) => [source_id, n]));
  return apps.flatMap(({ app, automations }) =>
    automations.map((automation) => ({
      id: automation.id,
      what: automation.what,
      name: automation.name,
      app: app.name,
      href: automationPage(automation),
      runs: runs.get(automation.id) ?? 0,
    })),
  );
}
