/** For which roles a second factor is required; an owner says so. */
import type { Role } from '../../../store/schema/rows';
import type { Store, Unit } from '../../../store/store';
import { type Actor, type AppContext, OperationError, recordAudit, requireConfirmed, requireRole } from '../../context';
import { endSessionsOf } from '../sessions';

const SETTING = 'second-factor-roles';

export async function rolesWithSecondFactor(from: Pick<Store | Unit, 'settings'>): Promise<Role[]> {
  return ((await from.settings.one({ name: SETTING }))?.value as Role[] | undefined) ?? [];
}

/** Requires it of some roles: whoever of them is signed in without one is out, and sets one up at the next sign-in. */
export async function requireSecondFactor(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  roles: readonly Role[],
): Promise<{ ended: number }> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const without = await unit.select<{ id: string; role: Role }>(
      // Whoever has no password comes in through the identity provider, which asks for what it wants.
      `SELECT u.id, u.role FROM users u WHERE u.disabled_at IS NULL AND u.sealed_code_secret IS NULL AND u.password_hash <> ''
         AND NOT EXISTS (SELECT 1 FROM passkeys p WHERE p.user_id = u.id)`,
    );
    const struck = without.filter(({ role }) => roles.includes(role));
    if (struck.some(({ id }) => id === actor.id))
      throw new OperationError('conflict', 'Set up a second factor of your own first: under Your account.');
    await unit.settings.put({ name: SETTING, value: [...new Set(roles)] });
    await recordAudit(unit, actor, at, {
      action: 'second-factor.required',
      subject: SETTING,
      summary:
        roles.length > 0 ? `A second factor is required of: ${roles.join(', ')}` : 'No second factor is required',
    });
    let ended = 0;
    for (const { id } of struck) ended += await endSessionsOf(unit, actor, id, 'second factor changed', at);
    return { ended };
  });
}
