/** Waiting in tests: for the thing itself, or for everything to come to rest, and never for a time. */

/**
 * How many times slower this machine is than the one the ends below were written on, as
 * measured at the beginning of the run; at least 1.
 */
export const SLOWNESS = Math.max(1, Number(process.env.WINDGAP_SLOWNESS ?? 1));

/** Whoever waits so long, in milliseconds, waits for what hangs. Nothing that gets on is ended by it. */
export const HANGS = 180_000 * SLOWNESS;

/** Asks again until the answer is truthy, and gives it back. Fails with `what` when it hangs. */
export async function until<T>(what: string, ask: () => Promise<T> | T, everyMs = 40): Promise<NonNullable<T>> {
  const began = performance.now();
  for (;;) {
    const answer = await ask();
    if (answer) return answer as NonNullable<T>;
    if (performance.now() - began > HANGS) throw new Error(`Waited ${HANGS / 1000} s in vain until ${what}`);
    await new Promise((resolve) => setTimeout(resolve, everyMs));
  }
}

/** What has been done so far and what is left, as two looks can compare it. */
export interface Look {
  /** Things that are being done, or are due. */
  open: number;
  /** Changes with everything that is done. */
  done: string;
}

/** Nothing changed for so long, in milliseconds: what is still open waits for something that does not come. */
const STANDSTILL = 4000 * SLOWNESS;

/** Looks again until nothing is open any more, or until what is open has stopped moving. */
export async function untilAtRest(look: () => Promise<Look>): Promise<void> {
  let last = '';
  let movedAt = performance.now();
  let empty = 0;
  const began = movedAt;
  for (;;) {
    const { open, done } = await look();
    const seen = `${open} ${done}`;
    if (seen !== last) movedAt = performance.now();
    // Between two looks nothing may have been passed from one hand to another.
    empty = open === 0 && seen === last ? empty + 1 : 0;
    last = seen;
    if (empty >= 2) return;
    if (performance.now() - movedAt > STANDSTILL) return;
    if (performance.now() - began > HANGS) throw new Error(`It never came to rest: ${seen}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
