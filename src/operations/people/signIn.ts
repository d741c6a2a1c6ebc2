/** Signing in, and what slows guessing down without locking the right person out. */
import type { UserRow } from '../../store/schema/rows';
import { type AppContext, OperationError, recordAudit, SYSTEM } from '../context';
import { isPassword } from './passwords';
import { type Person, toPerson } from './person';

const WINDOW = 15 * 60_000;
/** Tries that failed or are still being judged, within the window. An office may sit behind one address. */
const MOST_TRIES = { account: 8, device: 8, address: 40 };

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
  const tries = await reserve(
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
  await forget(ctx, tries);
  return toPerson(user);
}

async function judged(ctx: AppContext, user: UserRow | undefined, password: string, tries: number[]): Promise<boolean> {
  try {
    return await isPassword(password, user?.password_hash);
  } catch (error) {
    // What was not judged was no try.
    await forget(ctx, tries);
    throw error;
  }
}

/** Notes a try for each subject, unless one has had too many; returns the ids of what was noted. */
function reserve(ctx: AppContext, subjects: { subject: string; most: number }[]): Promise<number[]> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    for (const { subject, most } of subjects) {
      const [row] = await unit.select<{ n: number; first: number | null }>(
        'SELECT count(*) AS n, min(at) AS first FROM sign_in_failures WHERE subject = :subject AND at > :since',
        { subject, since: at - WINDOW },
      );
      if ((row?.n ?? 0) < most) continue;
      const minutes = Math.max(1, Math.ceil(((row?.first ?? at) + WINDOW - at) / 60_000));
      throw new OperationError(
        'too-often',
        `Too many failed attempts. Wait ${minutes === 1 ? 'a minute' : `${minutes} minutes`} and try again.`,
      );
    }
    await unit.signInFailures.insert(subjects.map(({ subject }) => ({ subject, at })));
    const noted = await unit.select<{ id: number }>('SELECT id FROM sign_in_failures ORDER BY id DESC LIMIT :n', {
      n: subjects.length,
    });
    return noted.map(({ id }) => id);
  });
}

async function forget(ctx: AppContext, tries: number[]): Promise<void> {
  await ctx.store.write((unit) => unit.signInFailures.remove({ id: tries }));
}
