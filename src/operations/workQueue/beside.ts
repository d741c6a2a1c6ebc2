/** Work on several subjects beside one another, each at most once at a time: a slow one delays only itself. */

export interface Beside {
  /** Begins the work of a subject, or has it wait while too much is under way. Does nothing where it waits or is under way. */
  begin(subject: string, work: () => Promise<void>): void;
  /** Begins nothing more, and ends when all that is under way has. */
  drained(): Promise<void>;
}

/** `ended` is called whenever one has ended; work does not throw. Those that wait are begun in the order in which they came. */
export function createBeside(most: number, ended: () => void = () => undefined): Beside {
  const underWay = new Map<string, Promise<void>>();
  const waiting = new Map<string, () => Promise<void>>();

  function start(subject: string, work: () => Promise<void>) {
    const done = work().finally(() => {
      underWay.delete(subject);
      const [next] = waiting;
      if (next) {
        waiting.delete(next[0]);
        start(...next);
      }
      ended();
    });
    underWay.set(subject, done);
  }

  return {
    begin(subject, work) {
      if (underWay.has(subject) || waiting.has(subject)) return;
      if (underWay.size < most) start(subject, work);
      else waiting.set(subject, work);
    },
    async drained() {
      waiting.clear();
      await Promise.all(underWay.values());
    },
  };
}
