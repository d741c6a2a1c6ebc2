const RIGHT_TO_LEFT = new Set(['ar', 'he', 'fa', 'ur', 'ps', 'sd', 'yi', 'dv', 'ku', 'ug']);

/** Which way a language is written, by its tag. */
export function directionOf(language: string): 'ltr' | 'rtl' {
  return RIGHT_TO_LEFT.has(language.toLowerCase().split('-')[0] ?? '') ? 'rtl' : 'ltr';
}

const NAMES = new Intl.DisplayNames(['en'], { type: 'language', fallback: 'none' });

/** English name of a BCP 47 tag; the tag itself when it is none. */
export function languageName(tag: string): string {
  try {
    return NAMES.of(tag) ?? tag;
  } catch {
    return tag;
  }
}
