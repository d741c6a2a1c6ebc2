/** What goes with every change of what somebody signs in with: a record, and an end to their other sessions. */
import type { Unit } from '../../../store/store';
import { type Actor, found, OperationError, recordAudit } from '../../context';
import { endSessionsOf } from '../sessions';
import { rolesWithSecondFactor } from './required';

export async function noteFactorChange(
  unit: Unit,
  actor: Extract<Actor, { kind: 'user' }>,
  at: number,
  here: string,
  summary: string,
): Promise<void> {
  const user = found(await unit.users.one({ id: actor.id }), 'person');
  const roles = await rolesWithSecondFactor(unit);
  if (roles.includes(user.role) && user.sealed_code_secret === null) {
    const passkeys = await unit.passkeys.count({ user_id: user.id });
    if (passkeys === 0)
      throw new OperationError(
        'conflict',
        'Your role needs a second factor, and this is your only one. Add another first.',
      );
  }
  await recordAudit(unit, actor, at, { action: 'person.second-factor', subject: actor.id, summary });
  await endSessionsOf(unit, actor, actor.id, 'second factor changed', at, here);
}
