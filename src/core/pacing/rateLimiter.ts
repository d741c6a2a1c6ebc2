/**
 * Holds a line to its pace so that no window of one second, wherever it begins, holds
 * more than the pace allows, while nearly all of it is used: a log of the latest sends,
 * with a margin for what the way to the provider may squeeze together.
 */
export interface RateLimiter {
  /** Epoch milliseconds of the latest sends, oldest first, as many as matter. */
  readonly sent: number[];
}

/** A stretch in which only so many may leave. */
interface Limit {
  count: number;
  ms: number;
}

/** Sends that left this much apart may still arrive within one second of each other. */
const MARGIN = 1.01;
/** After a pause the line may catch up this much faster, as long as no second holds more than the pace. */
const CATCH_UP = 0.8;

export function newRateLimiter(): RateLimiter {
  return { sent: [] };
}

/** How many of `wanted` may leave now, and how long the next one waits. `perSecond` may be below one. Granted sends are noted. */
export function take(
  rateLimiter: RateLimiter,
  perSecond: number,
  wanted: number,
  now: number,
): { granted: number; waitMs: number } {
  const limits = limitsOf(perSecond);
  forget(rateLimiter.sent, limits[0]?.count ?? 1);
  const wait = () => Math.max(...limits.map((limit) => untilRoom(rateLimiter.sent, limit, now)));
  let granted = 0;
  for (; granted < wanted && wait() === 0; granted++) rateLimiter.sent.push(now);
  return { granted, waitMs: wait() };
}

/** Notes one that leaves whether or not there is room for it: the next ones wait the longer. */
export function noteSent(rateLimiter: RateLimiter, now: number): void {
  rateLimiter.sent.push(now);
}

/** Now and then, as each time costs as much as many sends. */
function forget(sent: number[], matter: number): void {
  if (sent.length > 2 * matter + 1000) sent.splice(0, sent.length - matter);
}

/** Says when the latest grant was really used: a machine may pause between the two. */
export function noteUsed(rateLimiter: RateLimiter, at: number): void {
  if (rateLimiter.sent.length > 0) rateLimiter.sent[rateLimiter.sent.length - 1] = at;
}

/** Sends a second over the last second, for showing. */
export function paceNow(rateLimiter: RateLimiter, now: number): number {
  return countSince(rateLimiter.sent, now - 1000);
}

/** Milliseconds until `queued` messages have left at this pace. */
export function forecast(queued: number, perSecond: number): number {
  return Math.ceil((queued / perSecond) * 1000 * MARGIN);
}

function limitsOf(perSecond: number): Limit[] {
  const count = Math.max(1, Math.floor(perSecond));
  const ms = (count / perSecond) * 1000 * MARGIN;
  // The second limit spreads a second's worth over it instead of sending it in one burst.
  const burst = Math.max(1, Math.ceil(perSecond / 20));
  return [
    { count, ms },
    { count: burst, ms: (burst / perSecond) * 1000 * CATCH_UP },
  ];
}

function countSince(sent: readonly number[], since: number): number {
  let count = 0;
  // A clock that stepped back leaves sends in the future; they count until it has caught up.
  for (let index = sent.length - 1; index >= 0 && (sent[index] as number) > since; index--) count++;
  return count;
}

function untilRoom(sent: readonly number[], limit: Limit, now: number): number {
  const blocking = sent[sent.length - limit.count];
  return blocking === undefined ? 0 : Math.max(0, Math.ceil(blocking + limit.ms - now));
}
