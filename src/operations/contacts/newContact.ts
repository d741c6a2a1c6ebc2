/** How a contact begins. */
import { languageOfCountry } from '../../core/addresses/display';
import { zoneOfCountry } from '../../core/addresses/zones';
import { type Identity, identityKind } from '../../core/identities/identityKinds';
import type { ContactRow } from '../../store/schema/rows';

/** A contact as it begins: with the language and the zone its number tells, until somebody says otherwise. */
export function newContact(
  id: string,
  name: string | null,
  { kind, value }: Pick<Identity, 'kind' | 'value'>,
  at: number,
): ContactRow {
  const read = identityKind(kind).read(value);
  const country = (read.ok && read.country) || null;
  const language = languageOfCountry(country) ?? null;
  const zone = zoneOfCountry(country) ?? null;
  return {
    id,
    name,
    country,
    created_at: at,
    carrier: null,
    carrier_at: null,
    language,
    language_from: language && 'number',
    zone,
    zone_from: zone && 'number',
    merged_into: null,
    seen_at: null,
  };
}
