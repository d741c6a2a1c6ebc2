/**
 * Turns whatever a person or an application typed into an address a provider takes:
 * E.164 (ITU-T E.164 §6, at most 15 digits after "+"), a short code, or a sender
 * name; or into a finding that says what is wrong with it.
 */
import { type CountryCode, isSupportedCountry, ParseError, parsePhoneNumberWithError } from 'libphonenumber-js/max';
import type { Finding } from '../finding';
import { memo } from '../memo';
import { fictionalRange } from './fictional';
import type { AddressKind } from './kinds';

export interface Address {
  /** "+" and digits for a telephone number; the bare code or name otherwise. */
  value: string;
  kind: AddressKind;
  /** ISO 3166-1 alpha-2, when the number belongs to one country. */
  country?: string;
  /** The way people in that country write it, for reading only. */
  national?: string;
  /** True inside a range reserved for fiction. */
  fictional: boolean;
}

export interface NormaliseOptions {
  /** ISO 3166-1 alpha-2 country assumed for national forms. Without it they are refused. */
  defaultCountry?: string;
  /** Accept 3 to 8 digit codes and names of at most 11 characters (3GPP TS 23.040 §9.1.2.5). */
  allowShortCode?: boolean;
  allowSenderName?: boolean;
}

export type NormaliseResult = { ok: true; address: Address } | { ok: false; finding: Finding };

const KINDS: Record<string, AddressKind> = {
  MOBILE: 'mobile',
  FIXED_LINE: 'fixed',
  FIXED_LINE_OR_MOBILE: 'fixed-or-mobile',
  TOLL_FREE: 'toll-free',
  PREMIUM_RATE: 'premium',
  SHARED_COST: 'premium',
  PERSONAL_NUMBER: 'personal',
  VOIP: 'voip',
};

/** Characters that arrive by copy and paste and that nobody sees. */
const INVISIBLE = /[\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]/g;

/** The same few numbers come again and again, and the numbering plans are large. */
const known = memo<NormaliseResult>(5000);

const SENDER_NAME = /^(?=.*[A-Za-z])[A-Za-z0-9 &._-]{1,11}$/;

export function normaliseAddress(input: string, options: NormaliseOptions = {}): NormaliseResult {
  const text = input
    .replace(INVISIBLE, '')
    .replace(/\u00a0/g, ' ')
    .replace(/\uff0b/g, '+')
    .trim();
  if (text === '') {
    return refuse('address-empty', 'There is no number here.', 'Enter a telephone number.');
  }
  const digits = text.replace(/[^\p{Nd}]/gu, '');
  const international = /^(?:tel:)?\s*\+/i.test(text);

  if (options.allowSenderName && SENDER_NAME.test(text) && !/^(?:tel:)/i.test(text)) {
    return { ok: true, address: { value: text, kind: 'sender-name', fictional: false } };
  }
  if (options.allowShortCode && !international && /^\d{3,8}$/.test(text) && !text.startsWith('0')) {
    const country = options.defaultCountry;
    return { ok: true, address: { value: text, kind: 'short-code', country, fictional: false } };
  }
  if (digits.length === 0) {
    return refuse(
      'address-no-digits',
      `"${clip(text)}" has no digits.`,
      'Check that this field holds a telephone number.',
    );
  }
  if (/\+.*\+|[;,/]\s*[+\p{Nd}]/u.test(text)) {
    return refuse('address-several', 'This looks like more than one number.', 'Enter one number in each field.');
  }
  const letters = text
    .replace(/^tel:/i, '')
    .replace(/(?:ext\.?|extension|x|#)\s*\p{Nd}+\s*$/iu, '')
    .match(/\p{L}/u);
  if (letters) {
    const at = input.indexOf(letters[0]);
    return refuse(
      'address-letters',
      `"${letters[0]}" is a letter, not a digit.`,
      'Telephone numbers are written with digits; a letter O or l is easily taken for 0 or 1.',
      at < 0 ? undefined : { from: at, to: at + letters[0].length },
    );
  }
  return known(`${options.defaultCountry ?? ''} ${text}`, () =>
    parseNumber(text, digits, international, options.defaultCountry),
  );
}

function parseNumber(
  text: string,
  digits: string,
  international: boolean,
  defaultCountry: string | undefined,
): NormaliseResult {
  const dialled = internationalForm(text, digits, international);
  if (!dialled.startsWith('+') && !(defaultCountry && isSupportedCountry(defaultCountry))) {
    return refuse(
      'address-country-needed',
      `${clip(text)} is a national number, and its country cannot be known from the number.`,
      'Add the country code with a plus sign, or choose the country these numbers belong to.',
    );
  }
  try {
    const parsed = parsePhoneNumberWithError(dialled, {
      defaultCountry: defaultCountry as CountryCode | undefined,
      extract: false,
    });
    if (parsed.ext) {
      return refuse(
        'address-extension',
        `An extension (${parsed.ext}) cannot receive a text.`,
        'Leave the extension out, or use the mobile number of the person behind it.',
      );
    }
    const range = fictionalRange(parsed.number);
    if (range) {
      return accept(parsed.number, range.kind, range.country, parsed.formatNational(), true);
    }
    if (!parsed.isValid()) {
      return refuse(
        'address-not-in-plan',
        `${parsed.number} is not a number that exists in ${parsed.country ?? 'that country'}'s numbering plan.`,
        'Check for a missing or doubled digit and that the country is right.',
      );
    }
    return accept(
      parsed.number,
      beyondCountries(parsed.number) ?? KINDS[parsed.getType() ?? ''] ?? 'other',
      parsed.country,
      parsed.formatNational(),
      false,
    );
  } catch (error) {
    if (error instanceof ParseError) return explainParseError(error.message, text, digits.length);
    throw error;
  }
}

/**
 * Codes that belong to no country (ITU-T E.164, list of assigned country codes): global satellite systems, networks
 * that span countries, and the international premium rate service. What they cost is nobody's local price.
 */
function beyondCountries(e164: string): AddressKind | undefined {
  if (/^\+(?:870|881|882|883)/.test(e164)) return 'satellite';
  return /^\+979/.test(e164) ? 'premium' : undefined;
}

/** A leading 00 is the international prefix in nearly every country; nobody's national number starts with it. */
function internationalForm(text: string, digits: string, international: boolean): string {
  if (international) return text.replace(/^tel:/i, '').trim();
  return digits.startsWith('00') ? text.replace(/^(?:tel:)?\D*00/i, '+') : text.replace(/^tel:/i, '');
}

function explainParseError(reason: string, text: string, length: number): NormaliseResult {
  switch (reason) {
    case 'TOO_SHORT':
      return refuse(
        'address-too-short',
        `${clip(text)} is too short: ${length} digits.`,
        'Look for digits lost when it was copied.',
      );
    case 'TOO_LONG':
    case 'INVALID_LENGTH':
      return refuse(
        'address-length',
        `${clip(text)} has ${length} digits, which no number of that country has.`,
        'Look for a doubled or missing digit; E.164 allows at most 15.',
      );
    case 'INVALID_COUNTRY':
      return refuse(
        'address-country-unknown',
        `${clip(text)} starts with a country code that does not exist.`,
        'Check the digits after the plus sign.',
      );
    default:
      return refuse(
        'address-unreadable',
        `"${clip(text)}" cannot be read as a telephone number.`,
        'Write it as +, country code, number.',
      );
  }
}

function accept(
  value: string,
  kind: AddressKind,
  country: string | undefined,
  national: string,
  fictional: boolean,
): NormaliseResult {
  return { ok: true, address: { value, kind, country, national, fictional } };
}

function refuse(code: string, problem: string, remedy: string, place?: Finding['place']): NormaliseResult {
  return { ok: false, finding: { code, severity: 'error', problem, remedy, place } };
}

function clip(text: string): string {
  return text.length > 40 ? `${text.slice(0, 39)}…` : text;
}
