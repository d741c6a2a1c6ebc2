/** What a broadcast costs by the price lists, and whether what is left of the balance suffices. Money is in micro-units. */

export interface Cost {
  /** By ISO 4217. */
  micros: Readonly<Record<string, number>>;
  /** Messages for which no price is known: the real cost is higher. */
  unpriced: number;
}

/** The share of a balance that no broadcast is planned to spend: replies and codes cost as well. */
export const CREDIT_RESERVE = 0.1;

export const NO_COST: Cost = { micros: {}, unpriced: 0 };

export function addCost(cost: Cost, price: { micros: number; currency: string } | undefined): Cost {
  if (!price) return { ...cost, unpriced: cost.unpriced + 1 };
  return { ...cost, micros: { ...cost.micros, [price.currency]: (cost.micros[price.currency] ?? 0) + price.micros } };
}

export interface Balance {
  micros: number;
  currency: string;
}

export type Affordable =
  /** The account tells no balance, or nothing it charges is known. */
  | { known: false }
  | { known: true; enough: true; left: number }
  /** `fits`: the share of the messages that the rest would pay for, 0 to 1. */
  | { known: true; enough: false; short: number; fits: number };

/**
 * Whether the balance of an account pays for its part: what other broadcasts were promised and the reserve, which bulk
 * never takes, are not there to be spent.
 */
export function affordable(
  balance: Balance | undefined,
  cost: number,
  { promised, reserve }: { promised: number; reserve: number },
): Affordable {
  if (!balance) return { known: false };
  const free = balance.micros * (1 - reserve) - promised;
  if (cost <= free) return { known: true, enough: true, left: free - cost };
  return { known: true, enough: false, short: cost - free, fits: cost > 0 ? Math.max(0, free) / cost : 0 };
}
