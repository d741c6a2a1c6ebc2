/** Limits and the places they count, in words. */
import { countryName, displayAddress } from '../addresses/display';
import { type CountedBy, type LimitName, limitNamed } from './limits';

/** “40 texts”, “12.50 GBP”, “3 codes”. */
export function amountWords(limit: LimitName, amount: number, subject: string): string {
  const { unit } = limitNamed(limit);
  if (unit === 'money') return `${(amount / 1e6).toFixed(2)} ${/^[A-Z]{3}$/.test(subject) ? subject : ''}`.trim();
  return `${amount.toLocaleString('en')} ${amount === 1 ? unit.slice(0, -1) : unit}`;
}

/** A counted place as people know it; undefined where there is only one, and for apps, which have names. */
export function placeWords(by: CountedBy, subject: string): string | undefined {
  if (by === 'recipient' || by === 'codes') return displayAddress(subject);
  if (by === 'range') return `${subject}….`;
  if (by === 'country') return subject === 'none' ? 'numbers of no country' : countryName(subject);
  if (by === 'visitor') return `the visitor at ${subject}`;
  return by === 'spend' ? subject : undefined;
}
