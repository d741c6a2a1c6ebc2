/**
 * What a provider says of an account and its numbers, as far as it tells: absent means
 * not told, never "no". Kept with the time it was read, and judged by the checks.
 */
export type RegistrationState = 'draft' | 'submitted' | 'approved' | 'rejected' | 'none';

/** Application-to-person registration for one country: first the brand, then what it is used for. */
export interface Registration {
  /** ISO 3166-1 alpha-2. */
  country: string;
  brand: RegistrationState;
  use: RegistrationState;
  /** The provider's reason for a rejection. */
  reason?: string;
}

export interface AccountFacts {
  id?: string;
  name?: string;
  balance?: { micros: number; currency: string };
  /** Epoch milliseconds at which the credential ends. */
  expiresAt?: number;
  permissions?: string[];
  /** ISO 3166-1 alpha-2 codes the account may send to. */
  countries?: string[];
  trial?: boolean;
  /** E.164 numbers a trial account may reach. */
  verifiedPhones?: string[];
  registrations?: Registration[];
  mode?: 'live' | 'development';
  payment?: 'ready' | 'missing';
  /** Events the platform posts to the inbound URL. */
  subscriptions?: string[];
  /** Where the platform posts to, and whether its challenge was answered. */
  callback?: { url?: string; verified?: boolean };
  /** By how much its clock is ahead of ours, milliseconds in whole minutes. */
  clockAhead?: number;
  /** How a trunk's login may bind, when that is not as its profile says. */
  bind?: 'transceiver' | 'transmitter and receiver';
}

export interface NumberFacts {
  /** Needs a code before it may be used; `taken` when the number is on the network in another way. */
  state?: 'ready' | 'code-needed' | 'taken';
  /** Open for people with a join code only, from then on. */
  testMode?: { on: boolean; since?: number; joinCode?: string };
  /** Business-initiated conversations a day. */
  allowance?: number;
  /** Shared with other customers: nobody can answer it. */
  shared?: boolean;
  /** Per month and once, micro-units. */
  price?: { monthly?: number; setup?: number; currency: string };
}

/** Whether what people write to a number comes in: a sender name takes nothing, and what is shared belongs to nobody. */
export function isAnswered({ abilities, facts }: { abilities: readonly string[]; facts: NumberFacts }): boolean {
  return abilities.includes('text-in') && facts.shared !== true;
}

/** What a profile demands of an account before its channels can work. */
export interface Requirements {
  permissions: readonly string[];
  subscriptions: readonly string[];
  /** Countries whose networks take application traffic only when registered. */
  registrationCountries: readonly string[];
}
