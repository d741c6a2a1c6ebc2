/** Signed-in sessions: an encrypted cookie that names the person; everything else is read afresh. */
import 'server-only';
import { createHash, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { getIronSession, sealData, unsealData } from 'iron-session';
import { cookies } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { type Actor, type AppContext, latestChangeId } from '../../operations/context';
import { hasOwner, type KnownDevice, type Person, personOfSession } from '../../operations/people';
import { windgap } from './windgap';

interface SessionData {
  personId?: string;
  sessionVersion?: number;
}

const DAYS = 14;

export async function session() {
  const ctx = await windgap();
  return getIronSession<SessionData>(await cookies(), {
    cookieName: 'windgap',
    password: sessionKey(ctx),
    ttl: DAYS * 24 * 3600,
    cookieOptions: { httpOnly: true, sameSite: 'lax', secure: ctx.config.publicUrl.startsWith('https:'), path: '/' },
  });
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
    secure: ctx.config.publicUrl.startsWith('https:'),
    path: '/sign-in',
    maxAge: DEVICE_SECONDS,
  });
}

/** Derived from the sealing key, so that there is one key to keep. */
function sessionKey(ctx: AppContext): string {
  const key = ctx.config.sealingKey ?? readFileSync(join(ctx.config.dataFolder, 'sealing.key'), 'utf8').trim();
  return createHash('sha256').update(`session ${key}`).digest('hex');
}

export const currentPerson = cache(async (): Promise<Person | undefined> => {
  const { personId, sessionVersion } = await session();
  return personId && sessionVersion ? personOfSession(await windgap(), personId, sessionVersion) : undefined;
});

/** The person on a page that needs one; others are sent to sign in, or to make the first owner. */
export async function requirePerson(): Promise<Person> {
  const person = await currentPerson();
  if (person) return person;
  redirect((await hasOwner(await windgap())) ? '/sign-in' : '/welcome');
}

export function actorOf(person: Person): Actor {
  return { kind: 'user', id: person.id, name: person.name, role: person.role };
}

/**
 * Windgap and the signed-in actor: what every page and action begins with. `since` is
 * the latest change at that moment, so that a page can hear of everything after it.
 */
export async function signedIn() {
  const [person, ctx] = await Promise.all([requirePerson(), windgap()]);
  return { ctx, actor: actorOf(person), person, since: await latestChangeId(ctx) };
}
