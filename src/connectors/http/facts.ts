/** What a profile reads of accounts and numbers, in our words. */
import type { AccountFacts, NumberFacts, RegistrationState } from '../../core/connect/facts';
import type { OfferedNumber, RemoteNumber } from '../connector';
import type { HttpProfile } from '../profile/schema';
import { fromProvider } from './addressForm';
import type { Json } from './jsonPath';
import { type AmountUnit, flag, listAt, micros, money, optional, required, texts, time, wholeNumber } from './read';

type AccountRead = HttpProfile['account']['read'];
type Words = HttpProfile['account']['words'];

export function readAccountFacts(read: AccountRead, words: Words, answer: Json, unit?: AmountUnit): AccountFacts {
  const facts: AccountFacts = {
    id: optional(answer, read.id),
    name: optional(answer, read.name),
    balance: money(answer, read.balance, read.currency, unit),
    expiresAt: time(answer, read.expiresAt),
    permissions: texts(answer, read.permissions),
    countries: texts(answer, read.countries)?.map((code) => code.toUpperCase()),
    trial: flag(answer, read.trial),
    verifiedPhones: texts(answer, read.verifiedPhones),
    mode: worded(words.mode, optional(answer, read.mode)),
    payment: worded(words.payment, optional(answer, read.payment)),
    subscriptions: texts(answer, read.subscriptions),
    callback:
      read.callbackUrl || read.callbackVerified
        ? { url: optional(answer, read.callbackUrl), verified: flag(answer, read.callbackVerified) }
        : undefined,
    registrations: read.registrations && readRegistrations(read.registrations, words, answer),
  };
  return Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined));
}

function readRegistrations(read: NonNullable<AccountRead['registrations']>, words: Words, answer: Json) {
  const state = (entry: Json, path: string): RegistrationState =>
    worded(words.registration, optional(entry, path)) ?? 'none';
  return listAt(answer, read.each)?.map((entry) => ({
    country: required(entry, read.country).toUpperCase(),
    brand: state(entry, read.brand),
    use: state(entry, read.use),
    reason: optional(entry, read.reason),
  }));
}

/** The provider's word in ours. An unknown word is no fact. */
function worded<Word extends string>(words: Record<string, Word>, said: string | undefined): Word | undefined {
  return said !== undefined && Object.hasOwn(words, said) ? words[said] : undefined;
}

export function readNumber(profile: HttpProfile, entry: Json): RemoteNumber {
  const { read } = profile.numbers;
  const testMode = flag(entry, read.testMode);
  const facts: NumberFacts = {
    state: worded(profile.account.words.numberState, optional(entry, read.state)),
    testMode:
      testMode === undefined
        ? undefined
        : { on: testMode, since: time(entry, read.testModeSince), joinCode: optional(entry, read.joinCode) },
    allowance: wholeNumber(entry, read.allowance),
    shared: flag(entry, read.shared),
    price: price(entry, read, profile.amounts),
  };
  return {
    remoteId: required(entry, read.remoteId),
    address: fromProvider(required(entry, read.address), profile.addressForm),
    abilities: texts(entry, read.abilities) ?? ['text-in', 'text-out', ...(profile.send.media ? ['media-out'] : [])],
    inbound: {
      url: optional(entry, read.inboundUrl),
      method: optional(entry, read.inboundMethod),
      fallback: optional(entry, read.inboundFallback),
    },
    facts: Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined)),
  };
}

export function readOffer(
  read: NonNullable<HttpProfile['numbers']['search']>['read'],
  { addressForm: form, amounts }: Pick<HttpProfile, 'addressForm' | 'amounts'>,
  entry: Json,
): OfferedNumber {
  return {
    offerId: required(entry, read.offerId),
    address: fromProvider(required(entry, read.address), form),
    abilities: texts(entry, read.abilities) ?? [],
    price: price(entry, read, amounts),
  };
}

interface PricePaths {
  monthlyPrice?: string;
  setupPrice?: string;
  currency?: string;
}

function price(entry: Json, read: PricePaths, unit: AmountUnit): NumberFacts['price'] {
  const currency = optional(entry, read.currency);
  const monthly = micros(entry, read.monthlyPrice, { unit, currency });
  const setup = micros(entry, read.setupPrice, { unit, currency });
  return currency && (monthly !== undefined || setup !== undefined) ? { monthly, setup, currency } : undefined;
}
