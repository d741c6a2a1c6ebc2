/** Teams: who is in which, what belongs to them, and whether they keep it to themselves. */
import type { Unit } from '../../store/store';
import {
  type Actor,
  ANY,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  OperationError,
  reachesApp,
  reachesChannel,
  reachOf,
  recordAudit,
  requireConfirmed,
  requireRole,
  setAdministratorsByTeam,
} from '../context';

const LONGEST = 60;

export interface TeamView {
  name: string;
  membersOnly: boolean;
  members: string[];
  channels: { id: string; name: string }[];
  apps: { id: string; name: string }[];
  conversations: number;
}

export async function listTeams(ctx: AppContext, actor: Actor): Promise<TeamView[]> {
  requireRole(actor, 'administrator');
  const [teams, members, channels, apps, open] = await Promise.all([
    ctx.store.teams.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.select<{ team: string; name: string }>(
      `SELECT t.team, u.name FROM team_members t JOIN users u ON u.id = t.user_id WHERE u.disabled_at IS NULL ORDER BY u.name`,
    ),
    ctx.store.select<Belonging>('SELECT team, id, name FROM channels WHERE team IS NOT NULL ORDER BY name'),
    ctx.store.select<Belonging>('SELECT team, id, name FROM apps WHERE team IS NOT NULL ORDER BY name'),
    ctx.store.select<{ team: string; n: number }>(
      `SELECT team, count(*) AS n FROM conversations WHERE team IS NOT NULL AND state <> 'closed' GROUP BY team`,
    ),
  ]);
  const reach = await reachOf(ctx.store, actor);
  const own = (rows: Belonging[], team: string) =>
    rows
      .filter((row) => row.team === team && reachesChannel(reach, row.id) && reachesApp(reach, row.id))
      .map(({ id, name }) => ({ id, name }));
  return teams.map(({ name, members_only }) => ({
    name,
    membersOnly: members_only === 1,
    members: members.filter(({ team }) => team === name).map((member) => member.name),
    channels: own(channels, name),
    apps: own(apps, name),
    conversations: open.find(({ team }) => team === name)?.n ?? 0,
  }));
}

interface Belonging {
  team: string;
  id: string;
  name: string;
}

/** Makes a team, or says whether one keeps what is its own to its members. */
export async function setTeam(
  ctx: AppContext,
  actor: Actor,
  given: { name: string; membersOnly: boolean },
): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const name = given.name.trim();
  if (name === '') throw invalidText('name', 'The name is empty.', 'Write what colleagues call the team.');
  if (name.length > LONGEST) throw invalidText('name', 'The name is too long.', `Use ${LONGEST} characters at most.`);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await ensureTeam(unit, name, at);
    await unit.teams.change({ name }, { members_only: given.membersOnly ? 1 : 0 });
    const summary = `Team ${name}: ${given.membersOnly ? 'what belongs to it is for its members alone' : 'everybody sees what belongs to it'}`;
    await recordAudit(unit, actor, at, { action: 'team.set', subject: name, summary });
    await noteChanges(unit, at, [['conversation', ANY]]);
  });
}

/** Takes a team away that nothing belongs to any more. */
export async function removeTeam(ctx: AppContext, actor: Actor, name: string): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const team = (await listTeams(ctx, actor)).find((each) => each.name === name);
  if (!team) throw new OperationError('not-found', 'There is no such team.');
  if (team.members.length + team.channels.length + team.apps.length > 0)
    throw new OperationError(
      'conflict',
      'People, channels or apps belong to this team. Give them to another one first.',
    );
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    // Closed conversations, too: what was for its members alone stays so until somebody gives it away.
    if ((await unit.conversations.count({ team: name })) > 0 && team.membersOnly)
      throw new OperationError('conflict', 'Conversations belong to this team, and only its members see them.');
    await unit.execute('UPDATE conversations SET team = NULL WHERE team = :name', { name });
    await unit.teams.remove({ name });
    await unit.teamMembers.remove({ team: name });
    await recordAudit(unit, actor, at, { action: 'team.removed', subject: name, summary: `Removed the team ${name}` });
  });
}

/** Gives a channel or an app to a team, or to nobody in particular. */
export async function giveToTeam(
  ctx: AppContext,
  actor: Actor,
  what: { kind: 'channel' | 'app'; id: string },
  team: string,
): Promise<void> {
  requireRole(actor, 'owner');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const table = what.kind === 'channel' ? unit.channels : unit.apps;
    const row = found(await table.one({ id: what.id }), what.kind);
    const next = team.trim() || null;
    if (next !== null) found(await unit.teams.one({ name: next }), 'team');
    if (what.kind === 'channel') await unit.channels.change({ id: what.id }, { team: next });
    else await unit.apps.change({ id: what.id }, { team: next });
    const summary = `${row.name} belongs to ${next ? `the team ${next}` : 'no team'}`;
    await recordAudit(unit, actor, at, { action: `${what.kind}.team`, subject: what.id, summary });
    await noteChanges(unit, at, [['conversation', ANY]]);
  });
}

/** Whether administrators, too, see only what their teams reach. */
export async function limitAdministrators(ctx: AppContext, actor: Actor, byTeam: boolean): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await setAdministratorsByTeam(unit, byTeam);
    const summary = byTeam
      ? 'Administrators see what their teams reach'
      : 'Administrators see what belongs to any team';
    await recordAudit(unit, actor, at, { action: 'team.administrators', subject: 'administrators', summary });
  });
}

/** The teams somebody is in from now on; teams nobody had heard of are made. */
export async function putIntoTeams(unit: Unit, userId: string, names: readonly string[], at: number): Promise<void> {
  await unit.teamMembers.remove({ user_id: userId });
  for (const name of new Set(names)) {
    await ensureTeam(unit, name, at);
    await unit.teamMembers.insert([{ team: name, user_id: userId }]);
  }
}

async function ensureTeam(unit: Unit, name: string, at: number): Promise<void> {
  if (!(await unit.teams.one({ name }))) await unit.teams.insert([{ name, members_only: 0, created_at: at }]);
}
