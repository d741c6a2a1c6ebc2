/** Who may sign in. */
import { PASSWORD_FAULTS, type PasswordOwner, passwordFault } from '../../core/people/passwordRules';
import { newId } from '../../store/ids';
import type { Role, UserRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  ANY,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../context';
import { type HandedOver, handOver } from './handingOver';
import { hashPassword, isPassword } from './passwords';
import { type Person, toPerson } from './person';
import { endSessionsOf, requireAnotherOwner } from './sessions';
import { putIntoTeams } from './teams';
import { forgetTries, MOST_TRIES, reserveTries } from './tries';

export async function addPerson(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; email: string; password: string; role: Role },
): Promise<Person> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  requireGoodPassword(input.password, input);
  const row = await newUser(ctx, input);
  await ctx.store.write(async (unit) => {
    if (await unit.users.one({ email: row.email }))
      throw invalidText('email', 'Somebody has this e-mail already.', 'Use another one.');
    await unit.users.insert([row]);
    await recordAudit(unit, actor, ctx.now(), {
      action: 'person.added',
      subject: row.id,
      summary: `Added ${row.name} as ${row.role}`,
    });
  });
  return toPerson(row);
}

/** Whoever begins with a password. */
export async function newUser(
  ctx: AppContext,
  input: { name: string; email: string; password: string; role: Role },
): Promise<UserRow> {
  return {
    id: newId('usr', ctx.now()),
    email: input.email.trim().toLowerCase(),
    name: input.name.trim(),
    role: input.role,
    password_hash: await hashPassword(input.password),
    created_at: ctx.now(),
    disabled_at: null,
    may_start: 1,
    mail_me: 0,
    seen_at: null,
    sealed_code_secret: null,
    code_step: null,
    provider_subject: null,
  };
}

/** The teams somebody belongs to, and whether they may write first. */
export async function changePerson(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { teams, mayStart, mailMe = false }: { teams: string; mayStart: boolean; mailMe?: boolean },
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  const names = [
    ...new Set(
      teams
        .split(',')
        .map((name) => name.trim().slice(0, 60))
        .filter(Boolean),
    ),
  ];
  await ctx.store.write(async (unit) => {
    const row = found(await unit.users.one({ id }), 'person');
    const before = (await unit.teamMembers.all({ user_id: id })).map(({ team }) => team);
    if (names.length !== before.length || names.some((name) => !before.includes(name))) {
      // Whoever is in a team reaches what it keeps to itself: an owner says who.
      await requireMayMove(unit, actor, [...names, ...before]);
      requireConfirmed(ctx, actor);
      await putIntoTeams(unit, id, names, at);
      await noteChanges(unit, at, [['conversation', ANY]]);
    }
    await unit.users.change({ id }, { may_start: mayStart ? 1 : 0, mail_me: mailMe ? 1 : 0 });
    await recordAudit(unit, actor, at, {
      action: 'person.changed',
      subject: id,
      summary: `${row.name}: ${names.length > 0 ? `in ${names.join(', ')}` : 'no team'}, ${mayStart ? 'can start conversations' : 'can only reply'}`,
    });
  });
}

async function requireMayMove(unit: Unit, actor: Actor, names: readonly string[]): Promise<void> {
  const closed = await unit.teams.all({ name: [...names], members_only: 1 });
  if (closed.length > 0) requireRole(actor, 'owner');
}

/** Throws what is wrong with a new password. */
export function requireGoodPassword(password: string, owner: PasswordOwner): void {
  const fault = passwordFault(password, owner);
  if (fault)
    throw invalidText('password', PASSWORD_FAULTS[fault], 'A few unrelated words are easier to remember than symbols.');
}

/** Another role counts with the next request, and whoever has it signs in once more. */
export async function changeRole(ctx: AppContext, actor: Actor, id: string, role: Role): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const user = found(await unit.users.one({ id }), 'person');
    if (user.role === role) return;
    if (user.role === 'owner') await requireAnotherOwner(unit, id);
    await unit.users.change({ id }, { role });
    await endSessionsOf(unit, actor, id, 'another role', at);
    const summary = `${user.name}: ${user.role} → ${role}`;
    await recordAudit(unit, actor, at, { action: 'person.role', subject: id, summary });
  });
}

/** Switches somebody off: out with the next request, and what was theirs is handed over, or is nobody's. */
export async function switchPersonOff(ctx: AppContext, actor: Actor, id: string, heirId?: string): Promise<HandedOver> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  if (id === actor.id) throw new OperationError('conflict', 'Nobody switches themselves off. Ask another owner.');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const user = found(await unit.users.one({ id, disabled_at: null }), 'person');
    const heir = heirId ? found(await unit.users.one({ id: heirId, disabled_at: null }), 'person') : undefined;
    if (heir?.id === id) throw invalidText('heir', 'This is the same person.', 'Choose a colleague, or nobody.');
    if (user.role === 'owner') await requireAnotherOwner(unit, id);
    await unit.users.change({ id }, { disabled_at: at });
    await unit.execute('UPDATE entry_codes SET used_at = :at WHERE user_id = :id AND used_at IS NULL', { at, id });
    await endSessionsOf(unit, actor, id, 'switched off', at);
    const left = await handOver(unit, user, heir, at);
    const to = heir ? heir.name : 'nobody in particular';
    await recordAudit(unit, actor, at, {
      action: 'person.switched-off',
      subject: id,
      summary: `Switched ${user.name} off; ${left.conversations} conversations and ${left.todos} to-dos went to ${to}`,
    });
    return left;
  });
}

export async function switchPersonOn(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const user = found(await unit.users.one({ id }), 'person');
    await unit.users.change({ id }, { disabled_at: null });
    await recordAudit(unit, actor, at, {
      action: 'person.switched-on',
      subject: id,
      summary: `Switched ${user.name} on again`,
    });
  });
}

/** One's own; every other session of one's own ends. */
export async function changePassword(
  ctx: AppContext,
  actor: Actor,
  { present, next, here }: { present: string; next: string; here: string },
): Promise<void> {
  requireRole(actor, 'viewer');
  const user = found(await ctx.store.users.one({ id: actor.id }), 'person');
  requireGoodPassword(next, user);
  const tries = await reserveTries(ctx, [{ subject: `confirm:${user.id}`, most: MOST_TRIES.account }]);
  if (!(await isPassword(present, user.password_hash)))
    throw invalidText('present', 'This is not your present password.', 'Type it again.');
  await forgetTries(ctx, tries);
  const password_hash = await hashPassword(next);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.users.change({ id: actor.id }, { password_hash });
    await endSessionsOf(unit, actor, actor.id, 'new password', at, here);
    const summary = `${actor.name} changed their password`;
    await recordAudit(unit, actor, at, { action: 'person.password', subject: actor.id, summary });
  });
}

export interface ListedPerson extends Person {
  createdAt: number;
  seenAt: number | null;
  /** Since when they are switched off. */
  offSince: number | null;
  /** They have not chosen a password yet. */
  invited: boolean;
  /** What they show beside the password. */
  factor: 'none' | 'passkey' | 'one-time codes' | 'identity provider';
  teams: string[];
  mayStart: boolean;
  mailMe: boolean;
}

export async function listPeople(ctx: AppContext, actor: Actor): Promise<ListedPerson[]> {
  requireRole(actor, 'administrator');
  const [rows, members, keys] = await Promise.all([
    ctx.store.users.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.teamMembers.all(),
    ctx.store.select<{ user_id: string }>('SELECT DISTINCT user_id FROM passkeys'),
  ]);
  const withPasskey = new Set(keys.map(({ user_id }) => user_id));
  return rows.map((row) => ({
    ...toPerson(row),
    createdAt: row.created_at,
    seenAt: row.seen_at,
    offSince: row.disabled_at,
    invited: row.password_hash === '' && row.provider_subject === null,
    factor: withPasskey.has(row.id)
      ? 'passkey'
      : row.sealed_code_secret !== null
        ? 'one-time codes'
        : row.provider_subject !== null
          ? 'identity provider'
          : 'none',
    teams: members.filter(({ user_id }) => user_id === row.id).map(({ team }) => team),
    mayStart: row.may_start === 1,
    mailMe: row.mail_me === 1,
  }));
}
