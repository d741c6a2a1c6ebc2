/** What a sign-in keeps between two requests: each is for one purpose, lasts ten minutes and is used once. */
import { createHash, randomBytes } from 'node:crypto';
import type { SignInStepKind, SignInStepRow } from '../../../store/schema/rows';
import { type AppContext, OperationError, realNow } from '../../context';

export const STEP_LASTS = 10 * 60_000;

/** The token is for a cookie of whoever began it; a hash is kept. */
export async function beginStep(
  ctx: AppContext,
  kind: SignInStepKind,
  value: Record<string, unknown>,
  userId: string | null = null,
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  const at = realNow(ctx);
  await ctx.store.write(
    async (unit) => {
      await unit.execute('DELETE FROM sign_in_steps WHERE expires_at < :at', { at });
      await unit.signInSteps.insert([
        { token_hash: hashOf(token), kind, user_id: userId, value, created_at: at, expires_at: at + STEP_LASTS },
      ]);
    },
    { durable: false },
  );
  return token;
}

/** The step while it is waited for; undefined when it ran out, was used or never was. */
export async function stepOf(
  ctx: AppContext,
  token: string,
  kinds: readonly SignInStepKind[],
): Promise<SignInStepRow | undefined> {
  if (token.length < 20 || token.length > 100) return undefined;
  const row = await ctx.store.signInSteps.one({ token_hash: hashOf(token) });
  return row && kinds.includes(row.kind) && row.expires_at > realNow(ctx) ? row : undefined;
}

/** The step, used up: whoever comes second finds nothing. */
export async function takeStep(
  ctx: AppContext,
  token: string,
  kinds: readonly SignInStepKind[],
): Promise<SignInStepRow> {
  const row = await stepOf(ctx, token, kinds);
  const taken =
    row &&
    (await ctx.store.write((unit) =>
      unit.execute('DELETE FROM sign_in_steps WHERE token_hash = :hash', { hash: row.token_hash }),
    ));
  if (!row || taken !== 1) throw stepGone();
  return row;
}

/** Notes something more in a step that goes on. */
export async function changeStep(ctx: AppContext, row: SignInStepRow, value: Record<string, unknown>): Promise<void> {
  await ctx.store.write((unit) => unit.signInSteps.change({ token_hash: row.token_hash }, { value }), {
    durable: false,
  });
}

export function stepGone(): OperationError {
  return new OperationError('invalid', 'This took longer than ten minutes, or was done already. Begin again.');
}

function hashOf(token: string): string {
  return createHash('sha256').update(token).digest('base64url');
}
