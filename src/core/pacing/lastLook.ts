/**
 * A last look at what is about to leave: whether it still does, asked when its turn has come and before the turn is taken,
 * so that the asking costs no turn and moves none. An answer is good for a moment; whoever waits longer is asked again.
 */

/** Milliseconds an answer is good for. */
const FRESH = 50;
/** Seconds of the pace that are asked ahead of their turn, so that a fast line is not slowed down by one question after the other. */
const AHEAD = 0.02;

/** How many of those that are next are asked together. */
export const askedAhead = (perSecond: number): number => Math.max(1, Math.ceil(perSecond * AHEAD));

export interface LastLook<Entry> {
  /** Whether it was said a moment ago that this one still leaves. */
  isSure(entry: Entry): boolean;
  /** Asks of each that is not being asked already. */
  at(entries: readonly Entry[]): void;
}

/**
 * `told` hears each answer: true where it still leaves, false where it does not, undefined where the question failed.
 * `elapsed` in milliseconds.
 */
export function createLastLook<Entry extends object>(
  elapsed: () => number,
  ask: (entry: Entry) => Promise<boolean>,
  told: (entry: Entry, leaves: boolean | undefined) => void,
): LastLook<Entry> {
  const sureUntil = new WeakMap<Entry, number>();
  const asking = new WeakSet<Entry>();

  async function askOf(entry: Entry) {
    asking.add(entry);
    const leaves = await ask(entry).catch(() => undefined);
    asking.delete(entry);
    if (leaves) sureUntil.set(entry, elapsed() + FRESH);
    told(entry, leaves);
  }

  return {
    isSure: (entry) => (sureUntil.get(entry) ?? Number.NEGATIVE_INFINITY) > elapsed(),
    at(entries) {
      for (const entry of entries) if (!asking.has(entry)) void askOf(entry);
    },
  };
}
