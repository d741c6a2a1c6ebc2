/** Who may sign in. */
import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
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

const derive = promisify(scrypt) as (
  password: string,
  salt: Buffer,
  length: number,
  options: object,
) => Promise<Buffer>;
/** OWASP Password Storage: scrypt with N=2^17 wants 128 MB; 2^15 with p=3 is its equal in 32 MB. */
const COST = { N: 2 ** 15, r: 8, p: 3, maxmem: 64 * 1024 * 1024 };
const WINDOW = 15 * 60_000;
/** Failed attempts in the window: on one account, and from one address, behind which a whole office may sit. */
const MOST_FAILURES = { account: 8, address: 40 };

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

/** The person, or an error that does not tell which of the two was wrong. Slows down guessing by e-mail and by address. */
export async function signIn(ctx: AppContext, email: string, password: string, from: string): Promise<Person> {
  const account = `email:${email.trim().toLowerCase()}`;
  const address = `address:${from}`;
  const rows = await ctx.store.select<{ subject: string; n: number }>(
    'SELECT subject, count(*) AS n FROM sign_in_failures WHERE subject IN (:subjects) AND at > :since GROUP BY subject',
    { subjects: [account, address], since: ctx.now() - WINDOW },
  );
  const failuresOf = (subject: string) => rows.find((row) => row.subject === subject)?.n ?? 0;
  if (failuresOf(account) >= MOST_FAILURES.account || failuresOf(address) >= MOST_FAILURES.address) {
    throw new OperationError('too-often', 'Too many failed attempts. Wait 15 minutes and try again.');
  }
  const user = await ctx.store.users.one({ email: email.trim().toLowerCase() });
  const right = await matches(password, user?.password_hash ?? NOBODY);
  if (!user || !right || user.disabled_at !== null) {
    await ctx.store.write((unit) =>
      unit.signInFailures.insert([account, address].map((subject) => ({ subject, at: ctx.now() }))),
    );
    throw new OperationError('invalid', 'E-mail and password do not fit together.');
  }
  return toPerson(user);
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

/** `scrypt.` salt `.` hash, base64url. */
async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const hash = await derive(password.normalize('NFKC'), salt, 32, COST);
  return `scrypt.${salt.toString('base64url')}.${hash.toString('base64url')}`;
}

/** Compared when nobody has the e-mail, so that the answer takes as long. */
const NOBODY = `scrypt.${Buffer.alloc(16).toString('base64url')}.${Buffer.alloc(32).toString('base64url')}`;

async function matches(password: string, stored: string): Promise<boolean> {
  const [, salt = '', hash = ''] = stored.split('.');
  const derived = await derive(password.normalize('NFKC'), Buffer.from(salt, 'base64url'), 32, COST);
  return timingSafeEqual(derived, Buffer.from(hash, 'base64url'));
}

function toPerson(row: UserRow): Person {
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
