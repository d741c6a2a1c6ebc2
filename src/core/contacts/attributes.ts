/** What is known of a contact under names that texts may use. */

/** Attributes every contact may have; the others are the installation's own. */
export const STANDARD_ATTRIBUTES = ['name', 'first name', 'phone', 'country', 'language'] as const;

/** Attributes by number in E.164. */
export type KnownPeople = Readonly<Record<string, Readonly<Record<string, string>>>>;

export interface KnownContact {
  name: string | null;
  country: string | null;
  language: string | null;
  phone?: string;
  own: readonly { name: string; value: string }[];
}

/** An attribute of their own does not hide a standard one. */
export function attributesOf({ name, country, language, phone, own }: KnownContact): Record<string, string> {
  return {
    ...Object.fromEntries(own.map((attribute) => [attribute.name, attribute.value])),
    name: name ?? '',
    'first name': name?.trim().split(/\s+/)[0] ?? '',
    phone: phone ?? '',
    country: country ?? '',
    language: language ?? '',
  };
}
