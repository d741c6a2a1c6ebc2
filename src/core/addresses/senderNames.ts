/**
 * Where a sender may be a name of letters: by country, as networks there are known to take it. What is not in the table is
 * not known here, and is not refused for it; providers say it in the end.
 */

export type NameCarriage = 'carried' | 'registered' | 'refused';

const REFUSED = ['CA', 'CN', 'NZ', 'US'];
/** Only names that were registered there beforehand. */
const REGISTERED = ['AE', 'AU', 'EG', 'ID', 'IE', 'IN', 'PH', 'QA', 'SA', 'SG', 'TH', 'TR', 'VN'];
const CARRIED = ['AT', 'BE', 'CH', 'DE', 'DK', 'EE', 'ES', 'FI', 'FR', 'GB', 'IT', 'LU', 'NL', 'NO', 'PT', 'SE'];

/** Countries by how networks there take a sender name, for reading. */
export const NAMES_BY_CARRIAGE: Record<NameCarriage, readonly string[]> = {
  carried: CARRIED,
  registered: REGISTERED,
  refused: REFUSED,
};

/** Undefined where it is not known. */
export function nameCarriage(country: string | undefined): NameCarriage | undefined {
  if (country === undefined) return undefined;
  return (Object.keys(NAMES_BY_CARRIAGE) as NameCarriage[]).find((how) => NAMES_BY_CARRIAGE[how].includes(country));
}
