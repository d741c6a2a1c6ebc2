/** How many tries to show who one is are judged: each counts before it is, so that many at once are no way past it. */
import { type AppContext, OperationError } from '../context';

const WINDOW = 15 * 60_000;
/** Tries that failed or are still being judged, within the window. An office may sit behind one address. */
export const MOST_TRIES = { account: 8, device: 8, address: 40 };

/** Notes a try for each subject, unless one has had too many; returns the ids of what was noted. */
export function reserveTries(ctx: AppContext, subjects: { subject: string; most: number }[]): Promise<number[]> {
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

export async function forgetTries(ctx: AppContext, tries: number[]): Promise<void> {
  await ctx.store.write((unit) => unit.signInFailures.remove({ id: tries }));
}
