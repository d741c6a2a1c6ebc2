/** Signed-in sessions: an encrypted cookie that names the person; everything else is read afresh. */
import 'server-only';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { getIronSession } from 'iron-session';
import { cookies } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { type Actor, type AppContext, latestChangeId } from '../../operations/context';
import { hasOwner, type Person, personOfSession } from '../../operations/people';
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
