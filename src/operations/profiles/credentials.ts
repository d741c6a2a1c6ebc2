/**
 * The credentials of accounts, opened to be used. They are sent only where they were given for: a
 * profile that was changed to lead elsewhere gets none until somebody who has them enters them again.
 */
import type { Connector, Credentials } from '../../connectors/connector';
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
      `The profile of ${account.name} was changed and uses them elsewhere: ${elsewhere.join(' and ')}. Replace the credentials to allow that.`,
    );
  return keptCredentials(ctx, account);
}

/** Where the profile would send the credentials by now, when it is not where they were given for. */
export function ledElsewhere(ctx: AppContext, account: ProviderAccountRow): string[] | undefined {
  if (account.meant_for === null || !ctx.connectors.has(account.connector)) return undefined;
  const now = meantFor(ctx.connectors.get(account.connector), keptCredentials(ctx, account));
  const noted = account.meant_for;
  // Before uses were noted, only addresses were.
  const more = now.filter((each) => !noted.includes(each) && (usesNoted(account) || !isUse(each)));
  return more.length > 0 ? more : undefined;
}

const USE = 'as ';
const isUse = (each: string) => each.startsWith(USE);
const openly = (name: string) => `${USE}${name} for all to read`;

/** What credentials are given for: the addresses they are sent to, what of them is no secret, and where a secret is used. */
export function meantFor(connector: Connector, credentials: Credentials): string[] {
  return [
    ...connector.addresses(credentials),
    ...connector.credentialFields.filter(({ secret }) => !secret).map(({ name }) => openly(name)),
    ...connector.secretPlaces.map((place) => `${USE}a secret in ${place}`),
  ];
}

/** Whether it was noted for which uses these credentials were given. */
export function usesNoted({ meant_for }: Pick<ProviderAccountRow, 'meant_for'>): boolean {
  return meant_for?.some(isUse) ?? false;
}

/** Whether a field of an account may be read: its profile says so, and said so when the value was entered. */
export function isOpen(
  account: Pick<ProviderAccountRow, 'meant_for'>,
  field: { name: string; secret: boolean },
): boolean {
  return !field.secret && (!usesNoted(account) || (account.meant_for?.includes(openly(field.name)) ?? false));
}

/** Everything in force for what comes in: the present credentials, and the former ones while their overlap lasts. */
export function credentialsInForce(ctx: AppContext, account: ProviderAccountRow, now: number): Credentials[] {
  const present = keptCredentials(ctx, account);
  const overlapping = account.sealed_previous !== null && (account.previous_until ?? 0) > now;
  return overlapping ? [present, ctx.sealer.open<Credentials>(account.sealed_previous as string)] : [present];
}
