/** Recovery codes: ten, for whoever lost their device; each opens once. */
import { createHash, randomInt } from 'node:crypto';
import { type Actor, type AppContext, realNow, recordAudit, requireConfirmed, requireRole } from '../../context';

const HOW_MANY = 10;
/** Without what looks alike. */
const LETTERS = 'abcdefghjkmnpqrstuvwxyz23456789';

/** Ten new ones, shown this once; those before no longer open anything. */
export async function makeRecoveryCodes(ctx: AppContext, actor: Extract<Actor, { kind: 'user' }>): Promise<string[]> {
  requireRole(actor, 'viewer');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  // 31^10: 49 bits, and what guesses is slowed down.
  const codes = Array.from({ length: HOW_MANY }, () => {
    const text = Array.from({ length: 10 }, () => LETTERS[randomInt(LETTERS.length)]).join('');
    return `${text.slice(0, 5)}-${text.slice(5)}`;
  });
  await ctx.store.write(async (unit) => {
    await unit.recoveryCodes.remove({ user_id: actor.id });
    await unit.recoveryCodes.insert(
      codes.map((code) => ({ code_hash: hashOf(actor.id, code), user_id: actor.id, created_at: at, used_at: null })),
    );
    const summary = `${actor.name} made new recovery codes`;
    await recordAudit(unit, actor, at, { action: 'person.recovery-codes', subject: actor.id, summary });
  });
  return codes;
}

/** Whether a code was right, which uses it up. */
export async function takeRecoveryCode(ctx: AppContext, userId: string, code: string): Promise<boolean> {
  const taken = await ctx.store.write((unit) =>
    unit.execute(
      'UPDATE recovery_codes SET used_at = :at WHERE code_hash = :hash AND user_id = :userId AND used_at IS NULL',
      {
        at: realNow(ctx),
        hash: hashOf(userId, code),
        userId,
      },
    ),
  );
  return taken === 1;
}

function hashOf(userId: string, code: string): string {
  const plain = code.toLowerCase().replace(/[^a-z0-9]/g, '');
  return createHash('sha256').update(`${userId} ${plain}`).digest('base64url');
}
