/** Sessions of people who are signed in: kept here, so that one that was ended opens nothing with the next request. */
import { createHash, randomBytes } from 'node:crypto';
import { newId } from '../../store/ids';
import type { SessionRow, SignInWay } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  found,
  OperationError,
  realNow,
  recordAudit,
  requireRole,
  type SessionOfActor,
} from '../context';
import { type Person, toPerson } from './person';

const HOUR = 3_600_000;
/** Nobody was there for so long, or signed in so long ago. */
export const IDLE = 24 * HOUR;
export const ABSOLUTE = 14 * 24 * HOUR;
/** How often it is written down that somebody is there. */
const SEEN_EVERY = 60_000;

export type EndedWhy = NonNullable<SessionRow['ended_why']>;

export interface NewSession {
  address: string;
  /** As it calls itself. */
  browser: string;
  way: SignInWay;
  /** The identity provider's, to sign out there, too. */
  providerToken?: string;
}

/** The token is for the cookie alone; a hash of its 256 random bits is kept. */
export async function beginSession(
  ctx: AppContext,
  person: Pick<Person, 'id' | 'name'>,
  { address, browser, way, providerToken }: NewSession,
): Promise<{ id: string; token: string }> {
  const token = randomBytes(32).toString('base64url');
  const at = realNow(ctx);
  const id = newId('ses', at);
  await ctx.store.write(async (unit) => {
    await unit.sessions.insert([
      {
        id,
        user_id: person.id,
        token_hash: hashOf(token),
        created_at: at,
        seen_at: at,
        address: address.slice(0, 60),
        browser: browserOf(browser),
        ended_at: null,
        ended_why: null,
        way,
        confirmed_at: at,
        provider_token: providerToken === undefined ? null : ctx.sealer.seal(providerToken),
      },
    ]);
    await unit.users.change({ id: person.id }, { seen_at: at });
    await recordAudit(unit, actorOf(person), ctx.now(), {
      action: 'session.begun',
      subject: id,
      summary: `${person.name} signed in from ${address} by ${way}`,
    });
  });
  return { id, token };
}

export interface OpenSession {
  id: string;
  person: Person;
  confirmedAt: number;
  way: SignInWay;
}

/** Where the web process says when it let a request in; it takes away what others wrote there. */
export const ARRIVED = 'x-windgap-arrived';

/**
 * Who is signed in with a token; undefined once it was ended, was left alone too long, or its person was switched off.
 * A request that was let in before the session ended is served to its end.
 */
export async function sessionOf(
  ctx: AppContext,
  token: string,
  arrivedAt = Number.POSITIVE_INFINITY,
): Promise<OpenSession | undefined> {
  if (token.length < 20 || token.length > 100) return undefined;
  const row = await ctx.store.sessions.one({ token_hash: hashOf(token) });
  const now = realNow(ctx);
  if (!row || (row.ended_at !== null && row.ended_at <= arrivedAt)) return undefined;
  const user = await ctx.store.users.one({ id: row.user_id });
  if (!user || user.disabled_at !== null) return undefined;
  const left = now - row.seen_at > IDLE || now - row.created_at > ABSOLUTE;
  if (left || now - row.seen_at > SEEN_EVERY)
    await ctx.store.write(
      async (unit) => {
        await unit.sessions.change(
          { id: row.id, ended_at: null },
          left ? { ended_at: now, ended_why: 'left alone' } : { seen_at: now },
        );
        if (!left) await unit.users.change({ id: user.id }, { seen_at: now });
      },
      { durable: false },
    );
  return left ? undefined : { id: row.id, person: toPerson(user), confirmedAt: row.confirmed_at, way: row.way };
}

/** Whether a session still opens anything, for what stays open longer than a request. */
export async function isOpen(ctx: AppContext, id: string): Promise<boolean> {
  const rows = await ctx.store.select(
    `SELECT 1 FROM sessions s JOIN users u ON u.id = s.user_id
      WHERE s.id = :id AND s.ended_at IS NULL AND u.disabled_at IS NULL AND s.created_at > :oldest`,
    { id, oldest: realNow(ctx) - ABSOLUTE },
  );
  return rows.length > 0;
}

export interface SessionView {
  id: string;
  /** The one that asks. */
  here: boolean;
  address: string;
  browser: string;
  way: SignInWay;
  began: number;
  seen: number;
}

/** One's own, latest first. */
export async function listSessions(ctx: AppContext, actor: Actor, here: string): Promise<SessionView[]> {
  requireRole(actor, 'viewer');
  const rows = await ctx.store.sessions.all({ user_id: actor.id, ended_at: null }, { order: [['seen_at', 'DESC']] });
  const now = realNow(ctx);
  return rows
    .filter(({ seen_at, created_at }) => now - seen_at <= IDLE && now - created_at <= ABSOLUTE)
    .map(({ id, address, browser, way, created_at, seen_at }) => ({
      id,
      here: id === here,
      address,
      browser,
      way,
      began: created_at,
      seen: seen_at,
    }));
}

/** Ends one of one's own. */
export async function endSession(ctx: AppContext, actor: Actor, id: string, why: EndedWhy): Promise<void> {
  requireRole(actor, 'viewer');
  await ctx.store.write(async (unit) => {
    const row = found(await unit.sessions.one({ id, user_id: actor.id }), 'session');
    if (row.ended_at !== null) return;
    const at = ctx.now();
    await unit.sessions.change({ id }, { ended_at: at, ended_why: why });
    await recordAudit(unit, actor, at, {
      action: 'session.ended',
      subject: id,
      summary: `${actor.name}: a session was ended (${why})`,
    });
  });
}

/** Ends all of one's own but the one that asks. */
export async function endOtherSessions(ctx: AppContext, actor: Actor, here: string): Promise<number> {
  requireRole(actor, 'viewer');
  return ctx.store.write((unit) => endSessionsOf(unit, actor, actor.id, 'ended by hand', ctx.now(), here));
}

/** Ends all sessions of somebody inside the unit that is the reason for it. */
export async function endSessionsOf(
  unit: Unit,
  actor: Actor,
  userId: string,
  why: EndedWhy,
  at: number,
  except = '',
): Promise<number> {
  const ended = await unit.execute(
    'UPDATE sessions SET ended_at = :at, ended_why = :why WHERE user_id = :userId AND ended_at IS NULL AND id <> :except',
    { at, why, userId, except },
  );
  // A sign-in that waits for its second factor began with what counts no more.
  if (why !== 'second factor changed' && why !== 'ended by hand')
    await unit.execute(`DELETE FROM sign_in_steps WHERE user_id = :userId AND kind IN ('second', 'enrol')`, { userId });
  if (ended > 0)
    await recordAudit(unit, actor, at, {
      action: 'session.ended',
      subject: userId,
      summary: `${ended === 1 ? 'A session was' : `${ended} sessions were`} ended (${why})`,
    });
  return ended;
}

export function actorOf(
  person: Pick<Person, 'id' | 'name'> & Partial<Person>,
  session?: SessionOfActor,
): Extract<Actor, { kind: 'user' }> {
  const actor = { kind: 'user', id: person.id, name: person.name, role: person.role ?? 'viewer' } as const;
  return session ? { ...actor, session } : actor;
}

function hashOf(token: string): string {
  return createHash('sha256').update(token).digest('base64url');
}

/** Enough of a User-Agent (RFC 9110 §10.1.5) to tell one's own apart: program and system. */
function browserOf(agent: string): string {
  const program = /(?:Firefox|Edg|OPR|Chrome|HeadlessChrome|Safari)\/[\d.]+/.exec(agent)?.[0].replace(/\..*/, '') ?? '';
  const system = /\(([^;)]+)/.exec(agent)?.[1] ?? '';
  return [program.replace('/', ' '), system].filter(Boolean).join(' on ').slice(0, 80) || 'another program';
}

/** Refuses what would leave nobody who owns the installation. */
export async function requireAnotherOwner(unit: Unit, id: string): Promise<void> {
  const owners = await unit.users.all({ role: 'owner', disabled_at: null });
  if (owners.every((owner) => owner.id === id))
    throw new OperationError('conflict', 'This is the only owner. Make somebody else an owner first.');
}
