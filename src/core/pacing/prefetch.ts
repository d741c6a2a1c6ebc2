/**
 * How far ahead of their turn texts are claimed, so that a line never runs dry while the
 * next claim is being written. A claim costs a commit, and how long a commit takes is the
 * disk's affair: a millisecond here, half a second there. What is claimed ahead of its turn
 * is what a crash leaves in doubt, so it is no more than that needs.
 */

/** No line is given less than this, in milliseconds: a disk that was quick a moment ago may not be now. */
const LEAST = 250;
/** Nor more, however slow the disk is. */
const MOST = 4000;
/** Texts ahead of their turn on one line, however fast it is. */
const MOST_TEXTS = 1000;
/** How much of a slow claim is still expected of the next one. */
const REMEMBERED = 0.95;

/** What the next claim may take, in milliseconds, after one that took `tookMs`. */
export function expectedClaim(before: number, tookMs: number): number {
  return Math.max(tookMs, before * REMEMBERED);
}

/**
 * Texts to hold ahead of their turn on a line of `perSecond`. More are claimed when half of
 * them are left, so the half must last as long as a claim does.
 */
export function textsAhead(perSecond: number, claimMs: number): number {
  const ms = Math.min(Math.max(2 * claimMs, LEAST), MOST);
  return Math.min(Math.ceil((perSecond * ms) / 1000), MOST_TEXTS);
}
