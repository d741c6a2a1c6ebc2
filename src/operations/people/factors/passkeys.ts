/** Passkeys (WebAuthn Level 3): adding one, and judging what one signed. The standard's checks are the library's. */

import { isIP } from 'node:net';
import {
  generateAuthenticationOptions,
  generateRegistrationOptions,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
} from '@simplewebauthn/server';
import type { PasskeyRow } from '../../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  OperationError,
  realNow,
  requireConfirmed,
  requireRole,
} from '../../context';
import type { Person } from '../person';
import { noteFactorChange } from './change';
import { beginStep, takeStep } from './steps';

/** Where passkeys of this installation count, or why they cannot (Web Authentication §5.1.3: a domain, and a secure context). */
export type RelyingParty = { id: string; origin: string } | { problem: string };

export function relyingPartyOf({ publicUrl }: AppContext['config']): RelyingParty {
  const { hostname, origin, protocol } = new URL(publicUrl);
  if (isIP(hostname.replace(/^\[|\]$/g, '')))
    return {
      problem: `Browsers keep passkeys for names and not for addresses such as ${hostname}. Set WINDGAP_PUBLIC_URL to the name under which people open Windgap.`,
    };
  if (protocol !== 'https:' && hostname !== 'localhost' && !hostname.endsWith('.localhost'))
    return {
      problem:
        'Browsers use passkeys over https only. Put Windgap behind TLS, and set WINDGAP_PUBLIC_URL to that address.',
    };
  return { id: hostname, origin };
}

function requireParty(ctx: AppContext): { id: string; origin: string } {
  const party = relyingPartyOf(ctx.config);
  if ('problem' in party) throw new OperationError('conflict', party.problem);
  return party;
}

export interface Begun<Options> {
  /** For a cookie. */
  token: string;
  options: Options;
}

/** What the browser makes a passkey from, for somebody who is being signed in or adds another one. */
export async function passkeyToAdd(
  ctx: AppContext,
  person: Person,
): Promise<Begun<PublicKeyCredentialCreationOptionsJSON>> {
  const party = requireParty(ctx);
  const kept = await ctx.store.passkeys.all({ user_id: person.id });
  const options = await generateRegistrationOptions({
    rpName: 'Windgap',
    rpID: party.id,
    userName: person.email,
    userDisplayName: person.name,
    userID: new Uint8Array(Buffer.from(person.id)),
    attestationType: 'none',
    excludeCredentials: kept.map(({ id, transports }) => ({ id, transports: transports as never })),
    authenticatorSelection: { residentKey: 'preferred', userVerification: 'preferred' },
  });
  return { token: await beginStep(ctx, 'add-passkey', { challenge: options.challenge }, person.id), options };
}

/** Keeps what the browser made. */
export async function keepPasskey(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  given: { token: string; answer: unknown; name: string; here: string },
): Promise<void> {
  requireRole(actor, 'viewer');
  requireConfirmed(ctx, actor);
  const party = requireParty(ctx);
  const step = await takeStep(ctx, given.token, ['add-passkey']);
  if (step.user_id !== actor.id) throw new OperationError('forbidden', 'This was begun by somebody else.');
  const result = await verifyRegistrationResponse({
    response: given.answer as never,
    expectedChallenge: String(step.value.challenge),
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    requireUserVerification: false,
  }).catch((error: Error) => {
    throw invalidText('passkey', `The passkey was not taken: ${error.message}.`, 'Try again, or with another device.');
  });
  if (!result.verified) throw invalidText('passkey', 'The passkey was not taken.', 'Try again.');
  const { credential } = result.registrationInfo;
  const at = ctx.now();
  const name = given.name.trim().slice(0, 60) || 'Passkey';
  await ctx.store.write(async (unit) => {
    if (await unit.passkeys.one({ id: credential.id })) throw new OperationError('conflict', 'This passkey is known.');
    await unit.passkeys.insert([
      {
        id: credential.id,
        user_id: actor.id,
        public_key: Buffer.from(credential.publicKey).toString('base64url'),
        counter: credential.counter,
        transports: credential.transports ?? [],
        name,
        created_at: at,
        used_at: null,
      },
    ]);
    await noteFactorChange(unit, actor, at, given.here, `${actor.name} added the passkey “${name}”`);
  });
}

export async function removePasskey(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  id: string,
  here: string,
): Promise<void> {
  requireRole(actor, 'viewer');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await unit.passkeys.one({ id, user_id: actor.id }), 'passkey');
    await unit.passkeys.remove({ id });
    await noteFactorChange(unit, actor, at, here, `${actor.name} removed the passkey “${row.name}”`);
  });
}

/** What the browser signs with a passkey: of one person, or of whoever has one here when nobody is named. */
export async function passkeyToShow(
  ctx: AppContext,
  person?: Pick<Person, 'id'>,
): Promise<Begun<PublicKeyCredentialRequestOptionsJSON>> {
  const party = requireParty(ctx);
  const kept = person ? await ctx.store.passkeys.all({ user_id: person.id }) : [];
  const options = await generateAuthenticationOptions({
    rpID: party.id,
    allowCredentials: kept.map(({ id, transports }) => ({ id, transports: transports as never })),
    // Without a password the device has to know its person.
    userVerification: person ? 'preferred' : 'required',
  });
  return { token: await beginStep(ctx, 'passkey', { challenge: options.challenge }, person?.id ?? null), options };
}

/** Whose passkey signed the challenge; throws when it was none that is known here, or not of the person it was asked of. */
export async function judgePasskey(
  ctx: AppContext,
  given: { token: string; answer: unknown },
): Promise<{ userId: string; passkey: PasskeyRow }> {
  const party = requireParty(ctx);
  const step = await takeStep(ctx, given.token, ['passkey']);
  const answer = given.answer as { id?: unknown };
  const passkey =
    typeof answer?.id === 'string' ? await ctx.store.passkeys.one({ id: answer.id.slice(0, 2000) }) : undefined;
  if (!passkey || (step.user_id !== null && step.user_id !== passkey.user_id)) throw notKnown();
  const result = await verifyAuthenticationResponse({
    response: given.answer as never,
    expectedChallenge: String(step.value.challenge),
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    requireUserVerification: step.user_id === null,
    credential: {
      id: passkey.id,
      publicKey: new Uint8Array(Buffer.from(passkey.public_key, 'base64url')),
      counter: passkey.counter,
      transports: passkey.transports as never,
    },
  }).catch(() => undefined);
  if (!result?.verified) throw notKnown();
  const { newCounter } = result.authenticationInfo;
  await ctx.store.write((unit) =>
    unit.passkeys.change({ id: passkey.id }, { counter: newCounter, used_at: realNow(ctx) }),
  );
  return { userId: passkey.user_id, passkey };
}

function notKnown(): OperationError {
  return new OperationError('invalid', 'This passkey does not open anything here.');
}
