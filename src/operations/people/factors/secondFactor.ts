/** The second factor at signing in, and showing again that it is oneself. */
import type { SignInWay, UserRow } from '../../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  isOperationError,
  OperationError,
  realNow,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../../context';
import { isPassword } from '../passwords';
import { type Person, toPerson } from '../person';
import { requireOwnWay } from '../provider/settings';
import { actorOf, endSessionsOf } from '../sessions';
import { forgetTries, MOST_TRIES, reserveTries } from '../tries';
import { judgePasskey } from './passkeys';
import { takeRecoveryCode } from './recoveryCodes';
import { rolesWithSecondFactor } from './required';
import { beginStep, changeStep, stepGone, stepOf, takeStep } from './steps';
import { takeTimeCode } from './timeCodes';

export interface Factors {
  passkeys: { id: string; name: string; createdAt: number; usedAt: number | null }[];
  timeCodes: boolean;
  recoveryCodes: number;
  /** The role requires one. */
  required: boolean;
  /** They have a password here. */
  password: boolean;
  /** They came in through the identity provider once. */
  provider: boolean;
}

/** One's own. */
export async function getFactors(ctx: AppContext, actor: Extract<Actor, { kind: 'user' }>): Promise<Factors> {
  requireRole(actor, 'viewer');
  return factorsOf(ctx, found(await ctx.store.users.one({ id: actor.id }), 'person'));
}

async function factorsOf(ctx: AppContext, user: UserRow): Promise<Factors> {
  const [passkeys, recoveryCodes, roles] = await Promise.all([
    ctx.store.passkeys.all({ user_id: user.id }, { order: [['created_at', 'ASC']] }),
    ctx.store.recoveryCodes.count({ user_id: user.id, used_at: null }),
    rolesWithSecondFactor(ctx.store),
  ]);
  return {
    passkeys: passkeys.map(({ id, name, created_at, used_at }) => ({
      id,
      name,
      createdAt: created_at,
      usedAt: used_at,
    })),
    timeCodes: user.sealed_code_secret !== null,
    recoveryCodes,
    required: roles.includes(user.role),
    password: user.password_hash !== '',
    provider: user.provider_subject !== null,
  };
}

const hasFactor = ({ passkeys, timeCodes }: Factors) => passkeys.length > 0 || timeCodes;

/** What follows a right password: in, a second factor to show, or one to set up. */
export type AfterPassword = { step: 'in' } | { step: 'second' | 'enrol'; token: string };

export async function afterPassword(ctx: AppContext, person: Person, next: string): Promise<AfterPassword> {
  await requireOwnWay(ctx, person);
  const factors = await factorsOf(ctx, found(await ctx.store.users.one({ id: person.id }), 'person'));
  if (!hasFactor(factors) && !factors.required) return { step: 'in' };
  const step = hasFactor(factors) ? 'second' : 'enrol';
  return { step, token: await beginStep(ctx, step, { next }, person.id) };
}

export interface WaitingSignIn {
  step: 'second' | 'enrol';
  person: Person;
  factors: Factors;
  next: string;
  /** Of a second factor that was set up within it: shown once more until it is left. */
  done: boolean;
}

/** Who waits for their second factor behind a token. */
export async function waitingSignIn(ctx: AppContext, token: string): Promise<WaitingSignIn | undefined> {
  const row = await stepOf(ctx, token, ['second', 'enrol']);
  const user = row?.user_id ? await ctx.store.users.one({ id: row.user_id, disabled_at: null }) : undefined;
  if (!row || !user) return undefined;
  const factors = await factorsOf(ctx, user);
  // Whoever set one up meanwhile shows it; a sign-in that began before that opens nothing without it.
  if (row.kind === 'enrol' && row.value.done !== true && hasFactor(factors)) return undefined;
  return {
    step: row.kind as 'second' | 'enrol',
    person: toPerson(user),
    factors,
    next: String(row.value.next ?? '/'),
    done: row.value.done === true,
  };
}

export type SecondShown =
  | { by: 'code'; code: string }
  | { by: 'recovery code'; code: string }
  | { by: 'passkey'; token: string; answer: unknown };

/** Lets in whoever shows their second factor; throws what is wrong with it, and tells too many tries off. */
export async function showSecondFactor(
  ctx: AppContext,
  token: string,
  shown: SecondShown,
  from: string,
): Promise<{ person: Person; way: SignInWay; next: string }> {
  const row = await stepOf(ctx, token, ['second']);
  const user = row?.user_id ? await ctx.store.users.one({ id: row.user_id, disabled_at: null }) : undefined;
  if (!row || !user) throw stepGone();
  const tries = await reserveTries(ctx, [{ subject: `second:${user.id}`, most: MOST_TRIES.account }]);
  const right = await judged(ctx, user, shown);
  if (!right) {
    await noteRefused(ctx, user, `a second factor (${shown.by}) from ${from}`);
    throw invalidText(
      shown.by === 'passkey' ? 'passkey' : 'code',
      shown.by === 'code' ? 'This is not the code of now, or it was used already.' : `This ${shown.by} is not right.`,
      shown.by === 'code' ? 'Wait for the next one, and check the clock of the device.' : 'Try another way.',
    );
  }
  await takeStep(ctx, token, ['second']);
  await forgetTries(ctx, tries);
  return { person: toPerson(user), way: `password and ${shown.by}`, next: String(row.value.next ?? '/') };
}

async function judged(ctx: AppContext, user: UserRow, shown: SecondShown): Promise<boolean> {
  switch (shown.by) {
    case 'code':
      return takeTimeCode(ctx, user, shown.code);
    case 'recovery code':
      return takeRecoveryCode(ctx, user.id, shown.code);
    case 'passkey':
      return (await judgePasskey(ctx, shown).catch(refusal))?.userId === user.id;
  }
}

function refusal(error: unknown): undefined {
  if (isOperationError(error)) return undefined;
  throw error;
}

async function noteRefused(ctx: AppContext, user: UserRow, what: string): Promise<void> {
  await ctx.store.write((unit) =>
    recordAudit(unit, actorOf(toPerson(user)), ctx.now(), {
      action: 'sign-in.refused',
      subject: user.id,
      summary: `Refused ${what}`,
    }),
  );
}

/** A sign-in that set a second factor up goes on until its person has seen the recovery codes. */
export async function noteEnrolled(ctx: AppContext, token: string): Promise<void> {
  const row = await stepOf(ctx, token, ['enrol']);
  if (!row) throw stepGone();
  await changeStep(ctx, row, { ...row.value, done: true });
}

/** Ends the setting up of a second factor at sign-in; they are in. */
export async function finishEnrolling(
  ctx: AppContext,
  token: string,
): Promise<{ person: Person; way: SignInWay; next: string }> {
  const waiting = await waitingSignIn(ctx, token);
  // Set up within this very sign-in: what was set up in another one is for whoever has it to show.
  if (waiting?.step !== 'enrol' || !waiting.done || !hasFactor(waiting.factors)) throw stepGone();
  await takeStep(ctx, token, ['enrol']);
  const way = waiting.factors.passkeys.length > 0 ? 'password and passkey' : 'password and code';
  return { person: waiting.person, way, next: waiting.next };
}

/** Lets somebody in by a passkey alone: it is two factors, as the device checked its person (WebAuthn Level 3, user verification). */
export async function signInByPasskey(
  ctx: AppContext,
  given: { token: string; answer: unknown },
  from: string,
): Promise<Person> {
  const tries = await reserveTries(ctx, [{ subject: `address:${from}`, most: MOST_TRIES.address }]);
  const { userId } = await judgePasskey(ctx, given);
  const user = await ctx.store.users.one({ id: userId, disabled_at: null });
  if (!user) throw new OperationError('invalid', 'This passkey does not open anything here.');
  await forgetTries(ctx, tries);
  await requireOwnWay(ctx, user);
  return toPerson(user);
}

/** Shows again that it is oneself, for what is asked of nobody who only found an open browser. */
export async function confirmSession(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  shown: { by: 'password'; password: string } | { by: 'passkey'; token: string; answer: unknown },
): Promise<void> {
  requireRole(actor, 'viewer');
  const user = found(await ctx.store.users.one({ id: actor.id }), 'person');
  const tries = await reserveTries(ctx, [{ subject: `confirm:${user.id}`, most: MOST_TRIES.account }]);
  const right =
    shown.by === 'password'
      ? await isPassword(shown.password, user.password_hash)
      : (await judgePasskey(ctx, shown).catch(refusal))?.userId === user.id;
  if (!right) {
    await noteRefused(ctx, user, `to confirm a session by ${shown.by}`);
    throw invalidText(
      shown.by,
      shown.by === 'password' ? 'This is not your password.' : 'This passkey is not yours.',
      'Try again.',
    );
  }
  await forgetTries(ctx, tries);
  await noteConfirmed(ctx, actor);
}

/** Keeps that the person of a session has shown again that it is they. */
export async function noteConfirmed(ctx: AppContext, actor: Extract<Actor, { kind: 'user' }>): Promise<void> {
  requireRole(actor, 'viewer');
  await ctx.store.write((unit) =>
    unit.sessions.change({ id: actor.session?.id ?? '', user_id: actor.id }, { confirmed_at: realNow(ctx) }),
  );
}

/** Takes everything but the password from somebody who lost their device; they set up another at the next sign-in where it is required. */
export async function clearFactors(ctx: AppContext, actor: Actor, userId: string): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const user = found(await unit.users.one({ id: userId }), 'person');
    await unit.users.change({ id: userId }, { sealed_code_secret: null, code_step: null });
    await unit.passkeys.remove({ user_id: userId });
    await unit.recoveryCodes.remove({ user_id: userId });
    await endSessionsOf(unit, actor, userId, 'second factor changed', at);
    const summary = `Took the second factor of ${user.name} away`;
    await recordAudit(unit, actor, at, { action: 'person.second-factor', subject: userId, summary });
  });
}
