/** How a contact begins. */
import { normaliseAddress } from '../../core/addresses/address';
import { languageOfCountry } from '../../core/addresses/display';
import { zoneOfCountry } from '../../core/addresses/zones';
import type { ContactRow } from '../../store/schema/rows';

/** A contact as it begins: with the language and the zone its number tells, until somebody says otherwise. */
export function newContact(id: string, name: string | null, address: string, at: number): ContactRow {
  const country = countryOf(address);
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

function countryOf(address: string): string | null {
  const normalised = normaliseAddress(address);
  return normalised.ok ? (normalised.address.country ?? null) : null;
}
