/** Who may sign in. */
import { newId } from '../../store/ids';
import type { Role, UserRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../context';
import { hashPassword } from './passwords';

export interface Person {
  id: string;
  name: string;
  email: string;
  role: Role;
  sessionVersion: number;
}

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

/** The signed-in person behind a session; undefined once the account is disabled or its sessions ended. */
export async function personOfSession(
  ctx: AppContext,
  id: string,
  sessionVersion: number,
): Promise<Person | undefined> {
  const user = await ctx.store.users.one({ id });
  return user && user.disabled_at === null && user.session_version === sessionVersion ? toPerson(user) : undefined;
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
  };
}

export function toPerson(row: UserRow): Person {
  return { id: row.id, name: row.name, email: row.email, role: row.role, sessionVersion: row.session_version };
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

export interface ListedPerson extends Person {
  createdAt: number;
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
    team: row.team,
    mayStart: row.may_start === 1,
    mailMe: row.mail_me === 1,
  }));
}
