/**
 * Ranges that national regulators reserve for drama, fiction and documentation.
 * Numbering libraries differ in whether they call them valid; Windgap accepts them
 * everywhere and marks them, so that a demonstration never uses a number that rings.
 *
 * Sources: Ofcom "numbers for drama use"; NANPA 555-01XX; ACMA "numbers for use in
 * creative works"; ARCEP decision 2018-0881 (numéros pour œuvres audiovisuelles); PTS
 * "telefonnummer för användning i böcker och filmer".
 */
import type { AddressKind } from './kinds';

interface FictionalRange {
  country: string;
  kind: AddressKind;
  /** Matches the whole E.164 form. */
  pattern: RegExp;
}

const RANGES: readonly FictionalRange[] = [
  { country: 'GB', kind: 'mobile', pattern: /^\+447700900\d{3}$/ },
  { country: 'GB', kind: 'fixed', pattern: /^\+442079460\d{3}$/ },
  { country: 'GB', kind: 'premium', pattern: /^\+449098790\d{3}$/ },
  { country: 'US', kind: 'fixed-or-mobile', pattern: /^\+1[2-9]\d{2}55501\d{2}$/ },
  { country: 'AU', kind: 'mobile', pattern: /^\+61491570(?:006|15[6-9])$/ },
  { country: 'AU', kind: 'mobile', pattern: /^\+61491571(?:266|491|804)$/ },
  { country: 'FR', kind: 'mobile', pattern: /^\+336399[89]\d{4}$/ },
  { country: 'SE', kind: 'mobile', pattern: /^\+467017406(?:0[5-9]|[1-9]\d)$/ },
];

/** The reserved range an E.164 number falls in, or undefined for an ordinary number. */
export function fictionalRange(e164: string): FictionalRange | undefined {
  return RANGES.find((range) => range.pattern.test(e164));
}
