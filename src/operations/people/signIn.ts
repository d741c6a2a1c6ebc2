/** Signing in, and what slows guessing down without locking the right person out. */
import type { UserRow } from '../../store/schema/rows';
import { type AppContext, OperationError, recordAudit, SYSTEM } from '../context';
import { isPassword } from './passwords';
import { type Person, toPerson } from './person';
import { forgetTries, MOST_TRIES, reserveTries } from './tries';

export interface SignInTry {
  email: string;
  password: string;
  /** The address it comes from. */
  from: string;
  /** The browser, where somebody signed in with it before: whose it is and which. */
  device?: KnownDevice;
}

export interface KnownDevice {
  id: string;
  personId: string;
}

/**
 * The person, or an error that does not tell which of the two was wrong. A try counts before it is judged, so
 * that many at once are no way past the limit. Tries from a browser the person signed in with before are counted
 * apart: what strangers do to the account or behind the same address does not keep its owner out.
 */
export async function signIn(ctx: AppContext, given: SignInTry): Promise<Person> {
  const email = given.email.trim().toLowerCase().slice(0, 320);
  const user = await ctx.store.users.one({ email });
  const known = given.device !== undefined && given.device.personId === user?.id;
  const tries = await reserveTries(
    ctx,
    known
      ? [{ subject: `device:${given.device?.id}`, most: MOST_TRIES.device }]
      : [
          { subject: `email:${email}`, most: MOST_TRIES.account },
          { subject: `address:${given.from}`, most: MOST_TRIES.address },
        ],
  );
  const right = await judged(ctx, user, given.password, tries);
  if (!user || !right || user.disabled_at !== null) {
    await ctx.store.write((unit) =>
      recordAudit(unit, SYSTEM, ctx.now(), {
        action: 'sign-in.refused',
        subject: user?.id ?? 'nobody',
        summary: `Refused a sign-in from ${given.from} ${user ? `as ${user.name}` : 'with an unknown e-mail'}`,
      }),
    );
    throw new OperationError('invalid', 'E-mail and password do not fit together.');
  }
  await forgetTries(ctx, tries);
  return toPerson(user);
}

async function judged(ctx: AppContext, user: UserRow | undefined, password: string, tries: number[]): Promise<boolean> {
  try {
    return await isPassword(password, user?.password_hash);
  } catch (error) {
    // What was not judged was no try.
    await forgetTries(ctx, tries);
    throw error;
  }
}
