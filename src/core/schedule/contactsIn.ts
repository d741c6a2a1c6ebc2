/** Phone numbers and e-mail addresses in what people write into a calendar. */
import { normaliseAddress } from '../addresses/address';
import type { Occurrence } from './feed';

export interface ContactsFound {
  /** E.164, in the order found, each once. */
  phones: string[];
  emails: string[];
}

/** A run of digits with what people put between them; a national number begins with its 0. */
const PHONE = /(?<![\p{L}\p{N}.])(?:\+|00|\(?0)\s?[(]?[\p{Nd}][\p{Nd}\s().\u00a0/-]{5,20}[\p{Nd}](?![\p{L}\p{N}])/gu;
/** A local part has 64 octets at most, a label of the domain 63 (RFC 5321 §4.5.3.1.1, RFC 1035 §2.3.4). */
const EMAIL =
  /(?<![\p{L}\p{N}._%+-])[\p{L}\p{N}._%+-]{1,64}@(?:[\p{L}\p{N}-]{1,63}\.){1,8}\p{L}{2,63}(?![\p{L}\p{N}])/gu;
/** Of one field; whoever is in an appointment stands near its beginning. */
const LOOKED_AT = 50_000;
const DATE = /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$/;

/** `country` is the one of numbers without a country code; without it only international ones are found. */
export function contactsInText(whole: string, country?: string): ContactsFound {
  const text = whole.slice(0, LOOKED_AT);
  const phones = [...text.matchAll(PHONE)].flatMap(([found]) => {
    const written = found.trim();
    if (DATE.test(written)) return [];
    const result = normaliseAddress(written, { defaultCountry: country });
    return result.ok ? [result.address.value] : [];
  });
  return { phones: unique(phones), emails: unique([...text.matchAll(EMAIL)].map(([found]) => found.toLowerCase())) };
}

/** In the title, who attends, the description and the place, in that order. */
export function contactsIn(
  event: Pick<Occurrence, 'title' | 'attendees' | 'description' | 'location'>,
  country?: string,
): ContactsFound {
  const attendees = event.attendees.map(
    ({ name, address }) => `${name}\n${address.replace(/^(mailto|tel|sms):/i, '')}`,
  );
  const found = [event.title, ...attendees, event.description, event.location].map((text) =>
    contactsInText(text, country),
  );
  return {
    phones: unique(found.flatMap(({ phones }) => phones)),
    emails: unique(found.flatMap(({ emails }) => emails)),
  };
}

function unique(values: readonly string[]): string[] {
  return [...new Set(values)];
}
