/** Contacts that are probably one person: what of one names the other. */
import { normaliseAddress } from '../addresses/address';

/** A number or an e-mail address that is known of a contact, as an identity or as an attribute. */
export interface Trait {
  contactId: string;
  /** The attribute's name; `phone` or `visitor` for an identity. */
  name: string;
  value: string;
  /** ISO 3166-1 alpha-2 of the contact, for numbers without a country code. */
  country: string | null;
}

export interface Likeness {
  /** Older first. */
  ids: [string, string];
  /** What both have, in words. */
  why: string;
}

const MAIL_NAME = /^e-?mail|mail$/i;
const PHONE_NAME = /phone|mobile|cell|^tel|msisdn/i;

/** Whether an attribute of this name may tell who somebody is. */
export function tellsWho(name: string): boolean {
  return MAIL_NAME.test(name) || PHONE_NAME.test(name);
}

/** Local parts are compared without case: mailboxes that differ in it alone are not in use (RFC 5321 §2.4). */
function keyOf({ name, value, country }: Trait): { key: string; said: string } | undefined {
  const text = value.trim();
  if (/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(text)) return { key: `mail ${text.toLowerCase()}`, said: text.toLowerCase() };
  const phone = phoneOf({ name, value, country });
  return phone === undefined ? undefined : { key: `phone ${phone}`, said: phone };
}

/** The number a trait holds, in E.164. */
export function phoneOf({ name, value, country }: Pick<Trait, 'name' | 'value' | 'country'>): string | undefined {
  if (!PHONE_NAME.test(name)) return undefined;
  const normalised = normaliseAddress(value, { defaultCountry: country ?? undefined });
  return normalised.ok ? normalised.address.value : undefined;
}

/**
 * Each pair once. Three who share a value make two pairs, both with the oldest of them; a value that more than
 * `most` contacts share is a switchboard's or an office's and tells nothing.
 */
export function likenesses(traits: readonly Trait[], { most = 3 }: { most?: number } = {}): Likeness[] {
  const sharing = new Map<string, { said: string; ids: Set<string> }>();
  for (const trait of traits) {
    const found = keyOf(trait);
    if (!found) continue;
    const entry = sharing.get(found.key) ?? { said: found.said, ids: new Set<string>() };
    sharing.set(found.key, entry);
    entry.ids.add(trait.contactId);
  }
  const pairs = new Map<string, Likeness>();
  for (const { said, ids } of sharing.values()) {
    if (ids.size < 2 || ids.size > most) continue;
    const [oldest, ...others] = [...ids].sort() as [string, ...string[]];
    for (const other of others) {
      const known = pairs.get(`${oldest} ${other}`);
      pairs.set(`${oldest} ${other}`, {
        ids: [oldest, other],
        why: known ? `${known.why} and ${said}` : `Both have ${said}`,
      });
    }
  }
  return [...pairs.values()];
}
