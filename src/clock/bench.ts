/** The clock of an installation with a simulated outside: the machine's, moved on by as much as the bench says. */
import { openSync, readSync } from 'node:fs';
import { type Clock, systemClock, type Timer } from './clock';

/** How soon what waits notices that the clock was moved, in milliseconds. `now` knows at once. */
const LOOK_EVERY = 20;

interface Waiting {
  /** By the moved clock. */
  dueAt: number;
  work(): void;
  timer: Timer;
  /** It keeps the process alive. */
  holds: boolean;
}

/**
 * @param file the displacement in decimal milliseconds, written by the bench and read by every process of the
 *   installation each time it asks what time it is: a moment that one of them knows is known to all.
 * Throws when the file is not there.
 */
export function benchClock(file: string): Clock {
  const handle = openSync(file, 'r');
  const digits = Buffer.alloc(16);
  const displacement = () => Number(digits.toString('latin1', 0, readSync(handle, digits, 0, digits.length, 0)));
  const now = () => systemClock.now() + displacement();
  const waiting = new Set<Waiting>();
  let known = displacement();

  function moveOn() {
    const moved = displacement();
    if (moved === known) return;
    known = moved;
    // Timers set to the same moment run in the order in which they were set.
    for (const each of [...waiting].sort((a, b) => a.dueAt - b.dueAt)) {
      each.timer.cancel();
      arm(each, each.dueAt - now());
    }
  }

  function arm(each: Waiting, ms: number) {
    each.timer = systemClock.after(Math.max(0, ms), () => {
      waiting.delete(each);
      each.work();
    });
    if (!each.holds) each.timer.unref();
  }

  systemClock.every(LOOK_EVERY, moveOn).unref();
  return {
    ...systemClock,
    now,
    ahead: displacement,
    after(ms, work) {
      const each = { dueAt: now() + ms, work, holds: true } as Waiting;
      waiting.add(each);
      arm(each, ms);
      const timer: Timer = {
        cancel() {
          waiting.delete(each);
          each.timer.cancel();
        },
        unref() {
          each.holds = false;
          each.timer.unref();
          return timer;
        },
      };
      return timer;
    },
  };
}
