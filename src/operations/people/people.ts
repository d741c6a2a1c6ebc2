/** Who may sign in. */
import { newId } from '../../store/ids';
import type { Role, UserRow } from '../../store/schema/rows';
import {
  type Actor,
  ANY,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../context';
import { hashPassword, isPassword } from './passwords';
import { type Person, toPerson } from './person';
import { endSessionsOf, requireAnotherOwner } from './sessions';

export async function hasOwner(ctx: AppContext): Promise<boolean> {
  return (await ctx.store.users.count({ role: 'owner' })) > 0;
}

/** Only on an installation without an owner; afterwards accounts are made by one. */
export async function createFirstOwner(
  ctx: AppContext,
  input: { name: string; email: string; password: string },
): Promise<Person> {
  const row = await newUser(ctx, { ...input, role: 'owner' });
  await ctx.store.write(async (unit) => {
    if ((await unit.users.count({ role: 'owner' })) > 0)
      throw new OperationError('conflict', 'There is an owner already. Sign in.');
    await unit.users.insert([row]);
    await recordAudit(unit, SYSTEM, ctx.now(), {
      action: 'owner.created',
      subject: row.id,
      summary: `First owner ${row.name}`,
    });
  });
  return toPerson(row);
}

export async function addPerson(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; email: string; password: string; role: Role },
): Promise<Person> {
  requireRole(actor, 'owner');
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

async function newUser(
  ctx: AppContext,
  input: { name: string; email: string; password: string; role: Role },
): Promise<UserRow> {
  return {
    id: newId('usr', ctx.now()),
    email: input.email.trim().toLowerCase(),
    name: input.name.trim(),
    role: input.role,
    password_hash: await hashPassword(input.password),
    session_version: 1,
    created_at: ctx.now(),
    disabled_at: null,
    team: null,
    may_start: 1,
    mail_me: 0,
    seen_at: null,
  };
}

/** The team somebody belongs to, and whether they may write first. */
export async function changePerson(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { team, mayStart, mailMe = false }: { team: string; mayStart: boolean; mailMe?: boolean },
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await unit.users.one({ id }), 'person');
    await unit.users.change(
      { id },
      { team: team.trim().slice(0, 60) || null, may_start: mayStart ? 1 : 0, mail_me: mailMe ? 1 : 0 },
    );
    await recordAudit(unit, actor, at, {
      action: 'person.changed',
      subject: id,
      summary: `${row.name}: ${team.trim() ? `team ${team.trim()}` : 'no team'}, ${mayStart ? 'can start conversations' : 'can only reply'}`,
    });
  });
}

/** The least a password must be (NIST SP 800-63B-4 §3.1.1.2: length, and nothing about its characters). */
export function requireGoodPassword(password: string): void {
  if ([...password].length < 12)
    throw invalidText(
      'password',
      'The password is shorter than 12 characters.',
      'A few unrelated words are easier to remember than symbols.',
    );
}

/** Another role counts with the next request, and whoever has it signs in once more. */
export async function changeRole(ctx: AppContext, actor: Actor, id: string, role: Role): Promise<void> {
  requireRole(actor, 'owner');
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
export async function switchPersonOff(
  ctx: AppContext,
  actor: Actor,
  id: string,
  heirId?: string,
): Promise<{ conversations: number }> {
  requireRole(actor, 'owner');
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
    const conversations = await unit.execute('UPDATE conversations SET assigned_to = :heir WHERE assigned_to = :id', {
      heir: heir?.id ?? null,
      id,
    });
    await unit.execute('DELETE FROM conversation_presence WHERE user_id = :id', { id });
    const to = heir ? heir.name : 'nobody in particular';
    await recordAudit(unit, actor, at, {
      action: 'person.switched-off',
      subject: id,
      summary: `Switched ${user.name} off; ${conversations} conversations went to ${to}`,
    });
    await noteChanges(unit, at, [['conversation', ANY]]);
    return { conversations };
  });
}

export async function switchPersonOn(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'owner');
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
  requireGoodPassword(next);
  const user = found(await ctx.store.users.one({ id: actor.id }), 'person');
  if (!(await isPassword(present, user.password_hash)))
    throw invalidText('present', 'This is not your present password.', 'Type it again.');
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
  team: string | null;
  mayStart: boolean;
  mailMe: boolean;
}

export async function listPeople(ctx: AppContext, actor: Actor): Promise<ListedPerson[]> {
  requireRole(actor, 'administrator');
  const rows = await ctx.store.users.all(undefined, { order: [['name', 'ASC']] });
  return rows.map((row) => ({
    ...toPerson(row),
    createdAt: row.created_at,
    seenAt: row.seen_at,
    offSince: row.disabled_at,
    invited: row.password_hash === '',
    team: row.team,
    mayStart: row.may_start === 1,
    mailMe: row.mail_me === 1,
  }));
}
