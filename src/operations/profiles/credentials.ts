/**
 * The credentials of accounts, opened to be used. They are sent only where they were given for: a
 * profile that was changed to lead elsewhere gets none until somebody who has them enters them again.
 */
import type { Credentials } from '../../connectors/connector';
import type { ProviderAccountRow } from '../../store/schema/rows';
import { type AppContext, OperationError } from '../context';

/** By the row that was read: what sends many texts over it opens its seal once. */
const opened = new WeakMap<ProviderAccountRow, Credentials>();

/** The credentials as they are kept, for what is shown of them and for what comes in; what goes out asks `openCredentials`. */
export function keptCredentials(ctx: AppContext, account: ProviderAccountRow): Credentials {
  const known = opened.get(account);
  if (known) return known;
  const credentials = ctx.sealer.open<Credentials>(account.sealed_credentials);
  opened.set(account, credentials);
  return credentials;
}

/** The credentials, to be sent to the provider. Throws a conflict when the profile would send them elsewhere by now. */
export function openCredentials(ctx: AppContext, account: ProviderAccountRow): Credentials {
  const elsewhere = ledElsewhere(ctx, account);
  if (elsewhere)
    throw new OperationError(
      'conflict',
      `The profile of ${account.name} was changed and leads to ${elsewhere.join(' and ')}. Replace the credentials to allow that.`,
    );
  return keptCredentials(ctx, account);
}

/** Where the profile would send the credentials by now, when it is not where they were given for. */
export function ledElsewhere(ctx: AppContext, account: ProviderAccountRow): string[] | undefined {
  if (account.meant_for === null || !ctx.connectors.has(account.connector)) return undefined;
  const now = ctx.connectors.get(account.connector).addresses(keptCredentials(ctx, account));
  const more = now.filter((address) => !account.meant_for?.includes(address));
  return more.length > 0 ? more : undefined;
}

/** Everything in force for what comes in: the present credentials, and the former ones while their overlap lasts. */
export function credentialsInForce(ctx: AppContext, account: ProviderAccountRow, now: number): Credentials[] {
  const present = keptCredentials(ctx, account);
  const overlapping = account.sealed_previous !== null && (account.previous_until ?? 0) > now;
  return overlapping ? [present, ctx.sealer.open<Credentials>(account.sealed_previous as string)] : [present];
}
