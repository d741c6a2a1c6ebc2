/** Where on the clock a number is, as far as its country tells. */
import { normaliseAddress } from './address';

interface LocaleWithZones extends Intl.Locale {
  timeZones?: string[];
  getTimeZones?(): string[];
}

/** The IANA zone of a country that has one; undefined where there are several, as the number does not tell which. */
export function zoneOfCountry(code: string | null | undefined): string | undefined {
  if (!code) return undefined;
  try {
    const locale: LocaleWithZones = new Intl.Locale(`und-${code}`);
    const zones = locale.getTimeZones?.() ?? locale.timeZones ?? [];
    return zones.length === 1 ? zones[0] : MAINLAND[code];
  } catch {
    return undefined;
  }
}

/** Countries where all but some islands keep one time. */
const MAINLAND: Record<string, string> = {
  ES: 'Europe/Madrid',
  PT: 'Europe/Lisbon',
  DE: 'Europe/Berlin',
  NZ: 'Pacific/Auckland',
  CL: 'America/Santiago',
  NL: 'Europe/Amsterdam',
};

export function zoneOfNumber(number: string): string | undefined {
  const normalised = normaliseAddress(number);
  return normalised.ok ? zoneOfCountry(normalised.address.country) : undefined;
}
