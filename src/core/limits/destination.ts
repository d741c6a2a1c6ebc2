/** Where a text goes, as far as it matters for what it costs and for who could earn by it. */
import { normaliseAddress } from '../addresses/address';
import type { AddressKind } from '../addresses/kinds';

/** Kinds of numbers that cost their caller many times an ordinary text. */
export const COSTLY_KINDS = ['premium', 'personal', 'satellite'] as const;
export type CostlyKind = (typeof COSTLY_KINDS)[number];

export const COSTLY_WORDS: Record<CostlyKind, { one: string; many: string }> = {
  premium: { one: 'a premium-rate number', many: 'Premium-rate and shared-cost numbers' },
  personal: { one: 'a personal number', many: 'Personal numbers, which follow a person at the sender’s cost' },
  satellite: { one: 'a satellite number', many: 'Satellite and other numbers of no country' },
};

export interface Destination {
  /** E.164. */
  value: string;
  /** ISO 3166-1 alpha-2; absent for numbers of no country. */
  country?: string;
  /** The ten thousand numbers it is one of: whoever earns by texts holds numbers in a row. */
  range: string;
  kind: AddressKind;
}

/** What an address that texts reach says of itself; undefined where it is no telephone number. */
export function destinationOf(address: string): Destination | undefined {
  if (!address.startsWith('+')) return undefined;
  const known = normaliseAddress(address);
  const { kind, country } = known.ok ? known.address : { kind: 'other' as const, country: undefined };
  return { value: address, range: address.slice(0, -4), kind, ...(country ? { country } : {}) };
}

export function costlyKind(kind: AddressKind): CostlyKind | undefined {
  return COSTLY_KINDS.find((each) => each === kind);
}

/** What a channel may text: countries by code, and the costly kinds that are allowed all the same. */
export interface AllowedDestinations {
  countries: readonly string[];
  costly: readonly CostlyKind[];
}

/**
 * Why a text may not go there: its kind, or its country. Whoever wrote first may be answered in any country, but not
 * on a number that costs more than a text.
 */
export function notAllowed(
  { kind, country }: Destination,
  allowed: AllowedDestinations,
  wroteFirst: boolean,
): 'costly' | 'country' | undefined {
  const costly = costlyKind(kind);
  if (costly) return allowed.costly.includes(costly) ? undefined : 'costly';
  if (wroteFirst) return undefined;
  return country !== undefined && allowed.countries.includes(country) ? undefined : 'country';
}
