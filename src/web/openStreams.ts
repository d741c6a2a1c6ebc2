/** Streams that are held open, counted by whose they are. */
export interface OpenStreams {
  /** Counts one more; undefined when there are too many. What comes back counts it off again, once. */
  open(whose: string): (() => void) | undefined;
}

/** A stream costs a connection and a look at every change: a browser has a few, an attacker as many as it is let. */
export function createOpenStreams(most: number): OpenStreams {
  const open = new Map<string, number>();
  return {
    open(whose) {
      const n = open.get(whose) ?? 0;
      if (n >= most) return undefined;
      open.set(whose, n + 1);
      let closed = false;
      return () => {
        if (closed) return;
        closed = true;
        const left = (open.get(whose) ?? 1) - 1;
        if (left > 0) open.set(whose, left);
        else open.delete(whose);
      };
    },
  };
}
