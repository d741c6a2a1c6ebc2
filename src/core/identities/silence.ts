/** Whether a telephone number may have come to somebody else while nothing got there. */

const DAY = 86_400_000;
/** Numbers that were given up are given to others after 45 days at the earliest (47 CFR §52.15(f)(1)(ii)). */
const GIVEN_AGAIN = 45 * DAY;
/** So often, and over so long a time, nothing got there: a phone that was off for an evening is none of these. */
const LEAST_MISSED = 2;
const MISSED_OVER = 30 * DAY;

/** What did not get there since something last did. */
export interface Missed {
  times: number;
  firstAt: number;
  lastAt: number;
}

/** Why a number that is heard of again may be another person's by now, as a sentence; undefined for no reason. */
export function backAfterSilence({ times, firstAt, lastAt }: Missed, now: number): string | undefined {
  if (now - firstAt < GIVEN_AGAIN || times < LEAST_MISSED || lastAt - firstAt < MISSED_OVER) return undefined;
  const days = Math.floor((now - firstAt) / DAY);
  return `Nothing got there for ${days} days, and now it is in use: numbers that are given up come to others after such a time.`;
}
