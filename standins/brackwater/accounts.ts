/** What Brackwater keeps of its customers: accounts, numbers, registrations, texts and the log of what was posted. */
import type { HandsetFile } from '../network';

export interface BrackwaterNumber {
  handle: string;
  number: string;
  can: Ability[];
  inbound: CallbackTarget;
  /** Used by other customers as well: nobody can answer it. */
  shared?: boolean;
  price?: NumberPrice;
}

/** Where texts to a number are posted; an empty address is none. */
export interface CallbackTarget {
  method: 'POST' | 'GET';
  primary: string;
  fallback: string;
}

export const NOWHERE: CallbackTarget = { method: 'POST', primary: '', fallback: '' };

export interface NumberPrice {
  monthly: number;
  once: number;
  currency: string;
}

/** A number nobody has yet. */
export interface BrackwaterOffer {
  offer: string;
  number: string;
  country: string;
  can: Ability[];
  price: NumberPrice;
}

export type RegistrationWord = 'none' | 'started' | 'waiting' | 'granted' | 'declined';

export interface BrackwaterRegistration {
  country: string;
  brand: RegistrationWord;
  use: RegistrationWord;
  reason?: string;
}

export interface BrackwaterAccount {
  id: string;
  secret: string;
  name: string;
  /** Micro-units of the currency. */
  credit: number;
  currency: string;
  perSecond: number;
  /** Texts a second that networks of a country take, ISO 3166-1; others have no limit of their own. */
  perCountry?: Record<string, number>;
  numbers: BrackwaterNumber[];
  /** Countries it may send to, ISO 3166-1. */
  regions: string[];
  trial: boolean;
  verifiedPhones: string[];
  registrations: BrackwaterRegistration[];
  /** When the secret stops working; null while it has no end. */
  secretEnds: string | null;
}

/** What a number can do. */
export type Ability = 'text-in' | 'text-out' | 'media-in' | 'media-out';

export interface BrackwaterText {
  id: string;
  account: string;
  direction: 'in' | 'out';
  from: string;
  to: string;
  text: string;
  file?: HandsetFile;
  parts: number;
  price: number;
  state: string;
  /** Why it was lost. */
  code?: string;
  reference?: string;
  reportTo?: string;
  validSeconds?: number;
  at: string;
}

export interface LogLine {
  at: string;
  account: string;
  kind: 'api' | 'callback';
  summary: string;
  status: number | string;
}
