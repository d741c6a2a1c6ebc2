/** For how long a message is of use, and how SMPP says it. */

/** The longest a carrier holds a message for a phone that is off, as most do; asking for more changes nothing there. */
export const LONGEST_VALIDITY = 7 * 86_400_000;

/** Whole seconds left until the last useful moment, at least one; undefined where it has none. */
export function secondsLeft(validUntil: number | null, now: number): number | undefined {
  return validUntil === null ? undefined : Math.max(1, Math.floor((validUntil - now) / 1000));
}

/** A relative validity_period, `YYMMDDhhmmss000R` (SMPP 3.4 §7.1.1.2), of at most 99 days. */
export function smppPeriod(seconds: number): string {
  const left = Math.min(seconds, 99 * 86_400 - 1);
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0');
  const [days, hours] = [left / 86_400, (left % 86_400) / 3600];
  return `0000${two(days)}${two(hours)}${two((left % 3600) / 60)}${two(left % 60)}000R`;
}
