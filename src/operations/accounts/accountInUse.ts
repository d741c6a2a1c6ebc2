/** An account that is asked for something, and its provider's refusal as a person reads it. */
import type { Outcome } from '../../connectors/connector';
import { cause } from '../../core/delivery/causes';
import { type AppContext, found, invalid, type OperationError } from '../context';
import { connectorOf } from '../profiles';

export async function accountWith(ctx: AppContext, accountId: string) {
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  return { account, connector: await connectorOf(ctx, account) };
}

export function refused(who: string, outcome: Outcome<unknown>, field = 'form'): OperationError {
  if (outcome.ok) throw new Error('Not a refusal');
  const { cause: code, said } = outcome.failure;
  const { explain, remedy } = cause(code);
  const words = explain({ who, said });
  const problem = said && !words.includes(said) ? `${words} It says: ${said}.` : words;
  return invalid(field, { code, severity: 'error', problem, remedy });
}
