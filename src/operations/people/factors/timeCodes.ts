/** One-time codes of an authenticator program (TOTP, RFC 6238): six figures, thirty seconds, each taken once. */
import { Secret, TOTP } from 'otpauth';
import type { UserRow } from '../../../store/schema/rows';
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
import { beginStep, stepOf, takeStep } from './steps';

const PERIOD = 30;
/** Clocks of telephones may be a step off (RFC 6238 §5.2). */
const STEPS_OFF = 1;

function codesOf(person: Pick<Person, 'email'>, secret: string): TOTP {
  return new TOTP({
    issuer: 'Windgap',
    label: person.email,
    secret: Secret.fromBase32(secret),
    algorithm: 'SHA1',
    digits: 6,
    period: PERIOD,
  });
}

export interface NewTimeCodes {
  token: string;
  /** Base32, for typing. */
  secret: string;
  /** `otpauth:`, for a picture that is scanned. */
  uri: string;
}

/** A secret that counts once a code made from it was typed. */
export async function timeCodesToAdd(ctx: AppContext, person: Person): Promise<NewTimeCodes> {
  // RFC 4226 §4 R6 recommends 160 bits.
  const secret = new Secret({ size: 20 }).base32;
  const token = await beginStep(ctx, 'add-codes', { sealed: ctx.sealer.seal(secret) }, person.id);
  return { token, secret, uri: codesOf(person, secret).toString() };
}

/** Keeps the secret after its first code, which is used up by that. */
export async function keepTimeCodes(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  given: { token: string; code: string; here: string },
): Promise<void> {
  requireRole(actor, 'viewer');
  requireConfirmed(ctx, actor);
  const begun = await stepOf(ctx, given.token, ['add-codes']);
  if (begun?.user_id !== actor.id)
    throw new OperationError('invalid', 'This took longer than ten minutes. Begin again, with a new picture.');
  const sealed = String(begun.value.sealed);
  const step = stepOfCode(ctx, { email: '' }, ctx.sealer.open<string>(sealed), given.code);
  if (step === undefined)
    throw invalidText('code', 'This is not the code of now.', 'Type the one the program shows; check its clock.');
  await takeStep(ctx, given.token, ['add-codes']);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.users.change({ id: actor.id }, { sealed_code_secret: sealed, code_step: step });
    await noteFactorChange(unit, actor, at, given.here, `${actor.name} set up one-time codes`);
  });
}

export async function removeTimeCodes(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  here: string,
): Promise<void> {
  requireRole(actor, 'viewer');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    found(await unit.users.one({ id: actor.id }), 'person');
    await unit.users.change({ id: actor.id }, { sealed_code_secret: null, code_step: null });
    await noteFactorChange(unit, actor, at, here, `${actor.name} removed one-time codes`);
  });
}

/** Whether a code is right now; each counts once, and none from before it. */
export async function takeTimeCode(ctx: AppContext, user: UserRow, code: string): Promise<boolean> {
  if (user.sealed_code_secret === null) return false;
  const step = stepOfCode(ctx, user, ctx.sealer.open<string>(user.sealed_code_secret), code);
  if (step === undefined) return false;
  const taken = await ctx.store.write((unit) =>
    unit.execute('UPDATE users SET code_step = :step WHERE id = :id AND (code_step IS NULL OR code_step < :step)', {
      step,
      id: user.id,
    }),
  );
  return taken === 1;
}

/** The time step a code belongs to, while it counts. */
function stepOfCode(ctx: AppContext, person: Pick<Person, 'email'>, secret: string, code: string): number | undefined {
  const token = code.replace(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return undefined;
  const timestamp = realNow(ctx);
  const off = codesOf(person, secret).validate({ token, timestamp, window: STEPS_OFF });
  return off === null ? undefined : Math.floor(timestamp / 1000 / PERIOD) + off;
}
