import type { Credentials } from '../../connectors/connector';
import type { ProviderAccountRow } from '../../store/schema/rows';
import type { AppContext } from '../context';

/** By the row that was read: what sends many texts over it opens its seal once. */
const opened = new WeakMap<ProviderAccountRow, Credentials>();

export function openCredentials(ctx: AppContext, account: ProviderAccountRow): Credentials {
  const known = opened.get(account);
  if (known) return known;
  const credentials = ctx.sealer.open<Credentials>(account.sealed_credentials);
  opened.set(account, credentials);
  return credentials;
}

/** Everything in force for what comes in: the present credentials, and the former ones while their overlap lasts. */
export function credentialsInForce(ctx: AppContext, account: ProviderAccountRow, now: number): Credentials[] {
  const present = openCredentials(ctx, account);
  const overlapping = account.sealed_previous !== null && (account.previous_until ?? 0) > now;
  return overlapping ? [present, ctx.sealer.open<Credentials>(account.sealed_previous as string)] : [present];
}
