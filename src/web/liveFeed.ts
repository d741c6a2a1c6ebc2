/**
 * Tells browsers what changed. One look at the change table serves all of them, and
 * only while somebody listens; it does not matter which process made the change.
 */

import { type AppContext, type Change, changesAfter, latestChangeId } from '../operations/context';

export interface LiveFeed {
  /** Calls back with the changes after one, then with each further batch; the answer ends the subscription. */
  listen(after: number, callback: (changes: Change[]) => void): () => void;
  /** Stops looking: the process is about to end. */
  end(): void;
}

const LOOK_EVERY = 250;

export function createLiveFeed(ctx: AppContext): LiveFeed {
  const listeners = new Set<(changes: Change[]) => void>();
  let looking = false;

  async function look() {
    looking = true;
    let seen = await latestChangeId(ctx);
    while (listeners.size > 0) {
      await ctx.clock.pause(LOOK_EVERY);
      if (listeners.size === 0) break;
      try {
        const changes = await changesAfter(ctx, seen);
        seen = changes.at(-1)?.id ?? seen;
        if (changes.length > 0) for (const listener of listeners) listener(changes);
      } catch (error) {
        ctx.log.error({ err: error }, 'looking for changes failed');
      }
    }
    looking = false;
  }

  return {
    listen(after, callback) {
      // Listening begins before the past is read: a change may come twice, but none is missed.
      listeners.add(callback);
      if (!looking) void look();
      void changesAfter(ctx, after).then(
        (changes) => changes.length > 0 && listeners.has(callback) && callback(changes),
      );
      return () => listeners.delete(callback);
    },
    end: () => listeners.clear(),
  };
}
