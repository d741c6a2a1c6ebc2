/**
 * How much is kept of posts that nobody signed: enough to see what is wrong and to take them in when a secret was
 * mended, and no more than a little of the disk, however many somebody sends.
 */
import { LRUCache } from 'lru-cache';
import { LOW_ROOM } from './diskRoom';

const WINDOW = 3_600_000;
/** Kept whole within a window: of one client, and of one subject whoever posts. */
const MOST = { client: { posts: 2000, bytes: 5_000_000 }, subject: { posts: 5000, bytes: 15_000_000 } };
const MOST_CLIENTS = 10_000;

interface Spent {
  window: number;
  posts: number;
  bytes: number;
  told: boolean;
}

export interface RefusedBudget {
  /** Whether a post to a channel, hook or phone system is kept whole, as the last that says that there are more, or not at all. */
  keep(subject: string, client: string, bytes: number): 'whole' | 'last' | 'not';
}

/** @param room bytes the disk has left: where they run out, what nobody signed is what goes first */
export function createRefusedBudget(now: () => number, room = () => Number.POSITIVE_INFINITY): RefusedBudget {
  const spent = new LRUCache<string, Spent>({ max: MOST_CLIENTS });

  function spentBy(key: string): Spent {
    const window = Math.floor(now() / WINDOW);
    const known = spent.get(key);
    if (known?.window === window) return known;
    const fresh = { window, posts: 0, bytes: 0, told: false };
    spent.set(key, fresh);
    return fresh;
  }

  return {
    keep(subject, client, bytes) {
      if (room() < LOW_ROOM) return 'not';
      const counts = [
        [spentBy(`${subject} ${client}`), MOST.client],
        [spentBy(subject), MOST.subject],
      ] as const;
      const full = counts.find(([{ posts, bytes: kept }, most]) => posts >= most.posts || kept + bytes > most.bytes);
      if (full) {
        const first = !full[0].told;
        full[0].told = true;
        return first ? 'last' : 'not';
      }
      for (const [count] of counts) {
        count.posts += 1;
        count.bytes += bytes;
      }
      return 'whole';
    },
  };
}
