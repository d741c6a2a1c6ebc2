/**
 * Answers refusals more slowly the more of them one caller gets: whoever is refused over and over waits, and everybody
 * else is served meanwhile. What is right is never held back by it.
 */
import { LRUCache } from 'lru-cache';
import { clientOf } from '../core/addresses/client';

/** Refusals a second that nobody notices, and how many at once. */
const EVERY_SECOND = 10;
const AT_ONCE = 30;
const LONGEST = 5000;
/** Of one caller; waiting costs something, too. */
const MOST_WAITING = 200;
const MOST_CALLERS = 50_000;

interface Owed {
  /** Refusals, of which ten a second are forgotten. */
  refusals: number;
  at: number;
  waiting: number;
}

export interface Patience {
  /** Notes a refusal. Ends when its answer may be given: at once, or after a pause that grows with what is owed. */
  refused(from: string): Promise<void>;
  /** For what costs much before it can be refused: true when somebody who was refused too often may come in again, false when too many of theirs wait. */
  turn(from: string): Promise<boolean>;
}

export interface PatienceClock {
  /** Milliseconds that only grow. */
  elapsed(): number;
  pause(ms: number): Promise<void>;
}

export function createPatience(clock: PatienceClock): Patience {
  const callers = new LRUCache<string, Owed>({ max: MOST_CALLERS });

  function owedBy(from: string): Owed {
    const client = clientOf(from);
    const now = clock.elapsed();
    const known = callers.get(client) ?? { refusals: 0, at: now, waiting: 0 };
    known.refusals = Math.max(0, known.refusals - ((now - known.at) / 1000) * EVERY_SECOND);
    known.at = now;
    callers.set(client, known);
    return known;
  }

  async function wait(owed: Owed): Promise<boolean> {
    const over = owed.refusals - AT_ONCE;
    if (over <= 0) return true;
    if (owed.waiting >= MOST_WAITING) return false;
    owed.waiting += 1;
    await clock.pause(Math.min(LONGEST, (over / EVERY_SECOND) * 1000));
    owed.waiting -= 1;
    return true;
  }

  return {
    async refused(from) {
      const owed = owedBy(from);
      // What is owed ends somewhere, so that nobody pays for an hour.
      owed.refusals = Math.min(owed.refusals + 1, AT_ONCE + (LONGEST / 1000) * EVERY_SECOND);
      await wait(owed);
    },
    turn: (from) => wait(owedBy(from)),
  };
}
