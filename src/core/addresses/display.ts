import { getCountries, parsePhoneNumberFromString } from 'libphonenumber-js/max';
import { memo } from '../memo';

/** "+447700900123" → "+44 7700 900123": spaced for reading; anything else is returned as it is. */
export function displayAddress(value: string): string {
  if (!value.startsWith('+')) return value;
  return parsePhoneNumberFromString(value)?.formatInternational() ?? value;
}

const NAMES = new Intl.DisplayNames(['en'], { type: 'region' });

/** English name of an ISO 3166-1 alpha-2 code; the code itself when it is unknown. */
export function countryName(code: string | null | undefined): string {
  if (!code) return 'unknown country';
  try {
    return NAMES.of(code) ?? code;
  } catch {
    return code;
  }
}

/** The language most people of a country read, by the likely subtags of Unicode's CLDR; undefined where there is none. */
export function languageOfCountry(code: string | null | undefined): string | undefined {
  if (!code) return undefined;
  return languages(code, () => likelyLanguage(code));
}

const languages = memo<string | undefined>();

function likelyLanguage(code: string): string | undefined {
  try {
    const { language } = new Intl.Locale(`und-${code}`).maximize();
    return language === 'und' ? undefined : language;
  } catch {
    return undefined;
  }
}

/** Every country with a numbering plan, as code and name, by name. */
export function countryChoices(): [string, string][] {
  return getCountries()
    .map((code): [string, string] => [code, countryName(code)])
    .sort(([, a], [, b]) => a.localeCompare(b, 'en'));
}
