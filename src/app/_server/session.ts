/** Who is signed in: a cookie names a session that is kept in the store, and everything else is read afresh. */
import 'server-only';
import { createHash, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { sealData, unsealData } from 'iron-session';
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { type AppContext, latestChangeId } from '../../operations/context';
import {
  actorOf,
  beginSession,
  endSession,
  hasOwner,
  type KnownDevice,
  type OpenSession,
  type Person,
  sessionOf,
} from '../../operations/people';
import { windgap } from './windgap';

/** On a host of its own and over TLS the name itself keeps others from setting it (RFC 6265bis §4.1.3.2). */
function cookieNameOf(ctx: AppContext): string {
  return isSecure(ctx) ? '__Host-windgap' : 'windgap';
}

function isSecure(ctx: AppContext): boolean {
  return ctx.config.publicUrl.startsWith('https:');
}

/** Signs the person in: a session that is kept, and a cookie that names it and nothing else. */
export async function openSession(person: Pick<Person, 'id' | 'name'>): Promise<void> {
  const ctx = await windgap();
  const given = await headers();
  const { token } = await beginSession(ctx, person, {
    address: given.get('x-forwarded-for') ?? 'unknown',
    browser: given.get('user-agent') ?? '',
  });
  (await cookies()).set(cookieNameOf(ctx), token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(ctx),
    path: '/',
    maxAge: SESSION_SECONDS,
  });
}

const SESSION_SECONDS = 14 * 24 * 3600;

/** The session of whoever asks; read once for each request, and never from before it. */
export const currentSession = cache(async (): Promise<OpenSession | undefined> => {
  const ctx = await windgap();
  const token = (await cookies()).get(cookieNameOf(ctx))?.value;
  return token ? sessionOf(ctx, token) : undefined;
});

/** Ends it, here and for whoever has a copy of the cookie. */
export async function closeSession(): Promise<void> {
  const ctx = await windgap();
  const open = await currentSession();
  if (open) await endSession(ctx, actorOf(open.person), open.id, 'signed out');
  (await cookies()).set(cookieNameOf(ctx), '', { path: '/', maxAge: 0, secure: isSecure(ctx) });
}

const DEVICE = 'windgap-device';
const DEVICE_SECONDS = 180 * 24 * 3600;

/** The browser, where somebody signed in with it before. */
export async function knownDevice(): Promise<KnownDevice | undefined> {
  const sealed = (await cookies()).get(DEVICE)?.value;
  if (!sealed) return undefined;
  const options = { password: sessionKey(await windgap()), ttl: DEVICE_SECONDS };
  const { id, personId } = await unsealData<Partial<KnownDevice>>(sealed, options).catch(() => ({}) as never);
  return id && personId ? { id, personId } : undefined;
}

/** Keeps in the browser that this person signed in with it; it opens nothing. */
export async function rememberDevice(personId: string): Promise<void> {
  const ctx = await windgap();
  const before = await knownDevice();
  const device: KnownDevice = { id: before?.personId === personId ? before.id : randomUUID(), personId };
  (await cookies()).set(DEVICE, await sealData(device, { password: sessionKey(ctx), ttl: DEVICE_SECONDS }), {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(ctx),
    path: '/sign-in',
    maxAge: DEVICE_SECONDS,
  });
}

/** Derived from the sealing key, so that there is one key to keep. */
function sessionKey(ctx: AppContext): string {
  const key = ctx.config.sealingKey ?? readFileSync(join(ctx.config.dataFolder, 'sealing.key'), 'utf8').trim();
  return createHash('sha256').update(`session ${key}`).digest('hex');
}

export async function currentPerson(): Promise<Person | undefined> {
  return (await currentSession())?.person;
}

/** The person on a page that needs one; others are sent to sign in, or to make the first owner. */
export async function requireSession(): Promise<OpenSession> {
  const open = await currentSession();
  if (open) return open;
  redirect((await hasOwner(await windgap())) ? '/sign-in' : '/welcome');
}

/**
 * Windgap and the signed-in actor: what every page and action begins with. `since` is
 * the latest change at that moment, so that a page can hear of everything after it.
 */
export async function signedIn() {
  const [{ person, id: sessionId }, ctx] = await Promise.all([requireSession(), windgap()]);
  return { ctx, actor: actorOf(person), person, sessionId, since: await latestChangeId(ctx) };
}
