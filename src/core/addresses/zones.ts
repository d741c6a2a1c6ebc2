import { memo } from '../memo';

/** Where on the clock a number is, as far as its country tells. */
interface LocaleWithZones extends Intl.Locale {
  timeZones?: string[];
  getTimeZones?(): string[];
}

const known = memo<string | undefined>();

/** The IANA zone of a country that has one; undefined where there are several, as the number does not tell which. */
export function zoneOfCountry(code: string | null | undefined): string | undefined {
  if (!code) return undefined;
  return known(code, () => readZone(code));
}

function readZone(code: string): string | undefined {
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
