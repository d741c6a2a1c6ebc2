/** What a variable's name promises and what a value is, so that a phone in a name's place is seen. */
import { normaliseAddress } from '../addresses/address';

export type ValueKind = 'phone' | 'email' | 'link' | 'date' | 'time' | 'amount' | 'number' | 'words';

export const VALUE_KIND_WORDS: Record<ValueKind, string> = {
  phone: 'a phone number',
  email: 'an e-mail address',
  link: 'a link',
  date: 'a date',
  time: 'a time',
  amount: 'an amount of money',
  number: 'a number',
  words: 'words',
};

const NAMED: [ValueKind, RegExp][] = [
  ['email', /^e?_?mail$/],
  ['phone', /^(phone|mobile|cell|tel|telephone|msisdn|number_to_call)$/],
  ['link', /^(url|link|href|website)$/],
  ['date', /^(date|day|birthday|until|expires|due|datum)$/],
  ['time', /^(time|hour|at|clock|eta)$/],
  ['amount', /^(amount|price|total|fee|cost|sum|balance|owed)$/],
  ['number', /^(count|quantity|qty|items|nights|minutes|hours|days)$/],
  ['words', /^(name|firstname|lastname|surname|skipper|guest|title|place|lock|boat|city|street)$/],
];

/** What a variable of this name is likely to hold, by its last telling word; undefined when the name tells nothing. */
export function promisedKind(variable: string): ValueKind | undefined {
  for (const word of variable.toLowerCase().split('_').reverse()) {
    const found = NAMED.find(([, pattern]) => pattern.test(word));
    if (found) return found[0];
  }
  return undefined;
}

const MONTH =
  /\b(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec|janv|févr|mars|avr|mai|juin|juil|août|sept|okt|dez|maj)[a-zé]*\.?\b/i;

/** What a value is by its look. */
export function kindOfValue(value: string): ValueKind {
  const text = value.trim();
  if (/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(text)) return 'email';
  if (/^(https?:\/\/|www\.)\S+$/i.test(text)) return 'link';
  if (/^\d{4}-\d{2}-\d{2}([T ].*)?$|^\d{1,2}[./]\d{1,2}[./]\d{2,4}$/.test(text)) return 'date';
  if (/^\D{0,12}\d{1,2}(st|nd|rd|th)?\.? +\D/.test(text) && MONTH.test(text)) return 'date';
  if (MONTH.test(text) && /\d/.test(text) && text.length < 24) return 'date';
  if (/^\d{1,2}[:h]\d{2}(:\d{2})?( ?[ap]\.?m\.?)?$/i.test(text) || /^\d{1,2} ?[ap]m$/i.test(text)) return 'time';
  if (/^([£$€¥]|[A-Z]{3} ?|kr\.? ?)-?[\d., ]+$|^-?[\d., ]*\d ?([£$€¥]|[A-Z]{3}|kr\.?)$/.test(text)) return 'amount';
  if (/^\+[\d\s()-]{7,}$/.test(text)) return 'phone';
  if (/^0\d[\d\s()-]{7,}$/.test(text) && normaliseAddress(text, { defaultCountry: 'GB' }).ok) return 'phone';
  if (/^-?\d+([.,]\d+)*$/.test(text)) return 'number';
  return 'words';
}

/**
 * Whether a value is plainly not what the variable's name promises. A date may be said in
 * words ("tomorrow") and an amount as a number; a phone is never a name and words are never a phone.
 */
export function contradicts(variable: string, value: string): { promised: ValueKind; found: ValueKind } | undefined {
  const promised = promisedKind(variable);
  if (promised === undefined || value.trim() === '') return undefined;
  const found = kindOfValue(value);
  return ALSO[promised].includes(found) ? undefined : { promised, found };
}

const ALSO: Record<ValueKind, readonly ValueKind[]> = {
  phone: ['phone', 'number'],
  email: ['email'],
  link: ['link'],
  date: ['date', 'words'],
  time: ['time', 'words', 'date', 'number'],
  amount: ['amount', 'number'],
  number: ['number', 'words'],
  words: ['words'],
};
