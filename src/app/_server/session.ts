/** Who is signed in: a cookie names a session that is kept in the store, and everything else is read afresh. */
import 'server-only';
import { randomUUID } from 'node:crypto';
import { sealData, unsealData } from 'iron-session';
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { type AppContext, latestChangeId, OperationError } from '../../operations/context';
import {
  ARRIVED,
  actorOf,
  beginSession,
  endSession,
  hasOwner,
  type KnownDevice,
  type NewSession,
  type OpenSession,
  type Person,
  providerSignOut,
  sessionOf,
} from '../../operations/people';
import { SIGNED_OUT } from '../../ui/forms/formState';
import { windgap } from './windgap';

/** On a host of its own and over TLS the name itself keeps others from setting it (RFC 6265bis §4.1.3.2). */
function cookieNameOf(ctx: AppContext): string {
  return isSecure(ctx) ? '__Host-windgap' : 'windgap';
}

function isSecure(ctx: AppContext): boolean {
  return ctx.config.publicUrl.startsWith('https:');
}

/** Signs the person in: a session that is kept, and a cookie that names it and nothing else. */
export async function openSession(
  person: Pick<Person, 'id' | 'name'>,
  how: Pick<NewSession, 'way' | 'providerToken'>,
): Promise<void> {
  const ctx = await windgap();
  const given = await headers();
  const { token } = await beginSession(ctx, person, {
    address: given.get('x-forwarded-for') ?? 'unknown',
    browser: given.get('user-agent') ?? '',
    ...how,
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
  const arrived = (await headers()).get(ARRIVED);
  return token ? sessionOf(ctx, token, arrived === null ? undefined : Number(arrived)) : undefined;
});

/** Ends it, here and for whoever has a copy of the cookie. Returns where it is ended at the identity provider, too. */
export async function closeSession(): Promise<string | undefined> {
  const ctx = await windgap();
  const open = await currentSession();
  // First here: whoever signs out is out, however long the provider takes to answer.
  if (open) await endSession(ctx, actorOf(open.person), open.id, 'signed out');
  (await cookies()).set(cookieNameOf(ctx), '', { path: '/', maxAge: 0, secure: isSecure(ctx) });
  return open && providerSignOut(ctx, open.id);
}

const DEVICE = 'windgap-device';
const DEVICE_SECONDS = 180 * 24 * 3600;

/** The browser, where somebody signed in with it before. */
export async function knownDevice(): Promise<KnownDevice | undefined> {
  const sealed = (await cookies()).get(DEVICE)?.value;
  if (!sealed) return undefined;
  const options = { password: (await windgap()).sessionKey(), ttl: DEVICE_SECONDS };
  const { id, personId } = await unsealData<Partial<KnownDevice>>(sealed, options).catch(() => ({}) as never);
  return id && personId ? { id, personId } : undefined;
}

/** Keeps in the browser that this person signed in with it; it opens nothing. */
export async function rememberDevice(personId: string): Promise<void> {
  const ctx = await windgap();
  const before = await knownDevice();
  const device: KnownDevice = { id: before?.personId === personId ? before.id : randomUUID(), personId };
  (await cookies()).set(DEVICE, await sealData(device, { password: ctx.sessionKey(), ttl: DEVICE_SECONDS }), {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(ctx),
    path: '/sign-in',
    maxAge: DEVICE_SECONDS,
  });
}

export async function currentPerson(): Promise<Person | undefined> {
  return (await currentSession())?.person;
}

/** The digest tells the browser what an error was, as Next.js keeps words of errors to itself. */
function signedOut(): OperationError {
  return Object.assign(new OperationError('signed-out', 'You were signed out.'), { digest: SIGNED_OUT });
}

/** A path of this installation; its front page for anything else. */
export function localPath(text: string): string {
  const here = 'http://here.invalid';
  const fits = text.startsWith('/') && URL.canParse(text, here) && new URL(text, here).origin === here;
  return fits ? text : '/';
}

/** What a sign-in waits for, between two pages. */
const STEP = 'windgap-step';

export async function keepStep(token: string): Promise<void> {
  const ctx = await windgap();
  (await cookies()).set(STEP, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(ctx),
    path: '/sign-in',
    maxAge: 600,
  });
}

export async function keptStep(): Promise<string> {
  return (await cookies()).get(STEP)?.value ?? '';
}

/** What a journey to the identity provider waits for. */
const PROVIDER_STEP = 'windgap-provider';

export async function keepProviderStep(token: string): Promise<void> {
  const ctx = await windgap();
  // Whoever comes back comes from another site, by a link: Lax lets that pass.
  (await cookies()).set(PROVIDER_STEP, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(ctx),
    path: '/sign-in/provider',
    maxAge: 600,
  });
}

export async function keptProviderStep(): Promise<string> {
  return (await cookies()).get(PROVIDER_STEP)?.value ?? '';
}

/** Why a sign-in through the provider came to nothing, for the page that follows: no address makes that page say things. */
const SAID = 'windgap-said';

export async function keepSaid(text: string): Promise<void> {
  (await cookies()).set(SAID, text.slice(0, 400), {
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(await windgap()),
    path: '/sign-in',
    maxAge: 15,
  });
}

export async function keptSaid(): Promise<string | undefined> {
  return (await cookies()).get(SAID)?.value;
}

/** Who acts through a session. */
export function sessionActor({ person, id, confirmedAt }: OpenSession) {
  return actorOf(person, { id, confirmedAt });
}

/** The person on a page that needs one; others are sent to sign in, or to make the first owner. */
export async function requireSession(): Promise<OpenSession> {
  const open = await currentSession();
  if (open) return open;
  const given = await headers();
  // An action is answered where it was called: what stands on the page is not lost.
  if (given.has('next-action')) throw signedOut();
  if (!(await hasOwner(await windgap()))) redirect('/welcome');
  const path = localPath(given.get('x-windgap-path') ?? '/');
  redirect(path === '/' ? '/sign-in' : `/sign-in?${new URLSearchParams({ next: path })}`);
}

/**
 * Windgap and the signed-in actor: what every page and action begins with. `since` is
 * the latest change at that moment, so that a page can hear of everything after it.
 */
export async function signedIn() {
  const [open, ctx] = await Promise.all([requireSession(), windgap()]);
  const { person, id: sessionId } = open;
  return { ctx, actor: sessionActor(open), person, sessionId, since: await latestChangeId(ctx) };
}
