/** Work on several subjects beside one another, each at most once at a time: a slow one delays only itself. */

export interface Beside {
  /** Begins the work of a subject, unless it is under way or too much is. Returns whether it began. */
  begin(subject: string, work: () => Promise<void>): boolean;
  /** Ends when all that is under way has. */
  drained(): Promise<void>;
}

/** `ended` is called whenever one has ended; work does not throw. */
export function createBeside(most: number, ended: () => void): Beside {
  const underWay = new Map<string, Promise<void>>();
  return {
    begin(subject, work) {
      if (underWay.has(subject) || underWay.size >= most) return false;
      const done = work().finally(() => {
        underWay.delete(subject);
        ended();
      });
      underWay.set(subject, done);
      return true;
    },
    async drained() {
      await Promise.all(underWay.values());
    },
  };
}
