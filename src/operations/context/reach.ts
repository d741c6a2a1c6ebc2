/**
 * What somebody's teams reach. What belongs to a team that keeps it to its members is theirs: channels and apps given to
 * it, conversations assigned to it or on its channels. Owners see everything, administrators unless they are limited, and
 * whoever a conversation is assigned to sees it. One rule, asked by pages, API, search, exports and live updates.
 */
import type { Store, Unit } from '../../store/store';
import type { Actor } from './actor';
import { narrowedApp } from './appSight';
import type { Change } from './changes';
import { OperationError } from './errors';

const ADMINISTRATORS = 'administrators-by-team';

export interface Reach {
  /** Teams whose own is not for them. */
  teams: readonly string[];
  channels: ReadonlySet<string>;
  apps: ReadonlySet<string>;
  /** Whose assigned conversations are seen anyhow; empty for what is no person. */
  me: string;
}

type From = Pick<Store | Unit, 'select' | 'settings' | 'teams'>;

const EVERYTHING: Reach = { teams: [], channels: new Set(), apps: new Set(), me: '' };

export async function reachOf(from: From, actor: Actor): Promise<Reach> {
  if (actor.kind === 'system' || actor.kind === 'route' || (actor.kind === 'user' && actor.role === 'owner'))
    return EVERYTHING;
  const closed = await from.teams.all({ members_only: 1 });
  if (closed.length === 0) return EVERYTHING;
  if (actor.kind === 'user' && actor.role === 'administrator' && !(await areAdministratorsByTeam(from)))
    return EVERYTHING;
  const own = await from.select<{ team: string | null }>(
    actor.kind === 'app' ? 'SELECT team FROM apps WHERE id = :id' : 'SELECT team FROM team_members WHERE user_id = :id',
    { id: actor.id },
  );
  const teams = closed.map(({ name }) => name).filter((name) => !own.some(({ team }) => team === name));
  if (teams.length === 0) return EVERYTHING;
  const [channels, apps] = await Promise.all(
    ['channels', 'apps'].map((table) =>
      from.select<{ id: string }>(`SELECT id FROM ${table} WHERE team IN (:teams)`, { teams }),
    ),
  );
  return {
    teams,
    channels: new Set(channels?.map(({ id }) => id)),
    apps: new Set(apps?.map(({ id }) => id)),
    me: actor.kind === 'user' ? actor.id : '',
  };
}

/** For reading: an app that sees its own messages alone sees them wherever they are, as it sent or was told them. */
export async function readingReachOf(from: From, actor: Actor): Promise<Reach> {
  return narrowedApp(actor) === undefined ? reachOf(from, actor) : EVERYTHING;
}

export const seesEverything = ({ teams }: Reach) => teams.length === 0;

export function reachesChannel(reach: Reach, id: string): boolean {
  return !reach.channels.has(id);
}

export function reachesApp(reach: Reach, id: string): boolean {
  return !reach.apps.has(id);
}

/**
 * A condition over conversations under an alias; its values are `reachValues`. One that belongs to no team is reached by
 * whoever reaches a channel it runs over. Nothing hidden costs nothing.
 */
export function reachedConversations(reach: Reach, c: string): string {
  if (seesEverything(reach)) return '1';
  return `(${c}.assigned_to IS :reachMe OR CASE WHEN ${c}.team IS NOT NULL THEN ${c}.team NOT IN (:reachTeams)
    WHEN ${c}.channel_id NOT IN (:reachChannels) THEN 1
    ELSE EXISTS (SELECT 1 FROM messages rm WHERE rm.conversation_id = ${c}.id AND rm.channel_id NOT IN (:reachChannels)) END)`;
}

/** A condition over messages under an alias: within a conversation of no team it goes by the channel of each. */
export function reachedMessages(reach: Reach, m: string): string {
  if (seesEverything(reach)) return '1';
  return `EXISTS (SELECT 1 FROM conversations rc WHERE rc.id = ${m}.conversation_id AND (rc.assigned_to IS :reachMe
    OR CASE WHEN rc.team IS NULL THEN ${m}.channel_id NOT IN (:reachChannels) ELSE rc.team NOT IN (:reachTeams) END))`;
}

/** Throws `not-found` where there is no such message, and where it is for the members of a team alone. */
export async function requireReachedMessage(from: From, actor: Actor, id: string): Promise<void> {
  const reach = await readingReachOf(from, actor);
  if (seesEverything(reach)) return;
  const [row] = await from.select(`SELECT 1 FROM messages m WHERE m.id = :id AND ${reachedMessages(reach, 'm')}`, {
    id,
    ...reachValues(reach),
  });
  requireReach(row !== undefined, 'message');
}

export async function requireReachedConversation(from: From, actor: Actor, id: string): Promise<void> {
  const reach = await reachOf(from, actor);
  if (seesEverything(reach)) return;
  const [row] = await from.select(
    `SELECT 1 FROM conversations c WHERE c.id = :id AND ${reachedConversations(reach, 'c')}`,
    { id, ...reachValues(reach) },
  );
  requireReach(row !== undefined, 'conversation');
}

/** Throws `not-found` where a channel or an app is for the members of a team alone. */
export async function requireReached(from: From, actor: Actor, what: 'channel' | 'app', id: string): Promise<void> {
  const reach = await reachOf(from, actor);
  requireReach(what === 'channel' ? reachesChannel(reach, id) : reachesApp(reach, id), what);
}

/** Whether a page of a channel or an app is for them, by the ids in its address. */
export function reachesPage(reach: Reach, href: string): boolean {
  return !href.split(/[/?#=&]/).some((part) => reach.channels.has(part) || reach.apps.has(part));
}

/** Whether a document names nothing that is not for them: a delivery test, a set of routes. */
export function reachesContent(reach: Reach, content: unknown): boolean {
  if (seesEverything(reach)) return true;
  const text = JSON.stringify(content);
  return ![...reach.channels, ...reach.apps].some((id) => text.includes(id));
}

/** A condition over a column that names a channel or an app, or nothing. */
export function reachedBy(reach: Reach, column: string, what: 'channel' | 'app'): string {
  if (seesEverything(reach)) return '1';
  return `(${column} IS NULL OR ${column} NOT IN (${what === 'channel' ? ':reachChannels' : ':reachApps'}))`;
}

export function reachValues(reach: Reach): Record<string, unknown> {
  if (seesEverything(reach)) return {};
  const some = (values: readonly string[]) => (values.length > 0 ? [...values] : ['']);
  return {
    reachTeams: some(reach.teams),
    reachChannels: some([...reach.channels]),
    reachApps: some([...reach.apps]),
    reachMe: reach.me || '-',
  };
}

/** Of what changed, that which is for them: by the ids of channels, apps, conversations and messages. */
export async function reachedChanges(from: From, actor: Actor, changes: readonly Change[]): Promise<Change[]> {
  const reach = await reachOf(from, actor);
  if (seesEverything(reach)) return [...changes];
  const of = (kind: string) => changes.map(({ subject }) => subject).filter((subject) => subject.startsWith(kind));
  const values = reachValues(reach);
  const [conversations, messages] = await Promise.all([
    from.select<{ id: string }>(
      `SELECT c.id FROM conversations c JOIN json_each(:ids) j ON j.value = c.id WHERE ${reachedConversations(reach, 'c')}`,
      { ids: JSON.stringify(of('cnv_')), ...values },
    ),
    from.select<{ id: string }>(
      `SELECT m.id FROM messages m JOIN json_each(:ids) j ON j.value = m.id WHERE ${reachedMessages(reach, 'm')}`,
      { ids: JSON.stringify(of('msg_')), ...values },
    ),
  ]);
  const reached = new Set([...conversations, ...messages].map(({ id }) => id));
  return changes.filter(({ subject }) =>
    /^(?:cnv|msg)_/.test(subject) ? reached.has(subject) : !reach.channels.has(subject) && !reach.apps.has(subject),
  );
}

/** Throws as if it were not there. */
export function requireReach(reached: boolean, what: string): void {
  if (!reached) throw new OperationError('not-found', `There is no such ${what}.`);
}

export async function areAdministratorsByTeam(from: Pick<From, 'settings'>): Promise<boolean> {
  return (await from.settings.one({ name: ADMINISTRATORS }))?.value === true;
}

export async function setAdministratorsByTeam(unit: Unit, byTeam: boolean): Promise<void> {
  await unit.settings.put({ name: ADMINISTRATORS, value: byTeam });
}
