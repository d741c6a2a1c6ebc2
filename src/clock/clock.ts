/** The one source of time: nothing else in Windgap asks the machine what time it is, or waits by itself. */
export interface Clock {
  /** Epoch milliseconds, as stored and shown. */
  now(): number;
  /** Milliseconds since some moment that stays the same; never goes back, whatever is done to the machine's time. */
  elapsed(): number;
  /** Does something after so many milliseconds. Answers what calls it off. */
  after(ms: number, work: () => void): Timer;
  /** Does something again and again. Answers what ends it. */
  every(ms: number, work: () => void): Timer;
  pause(ms: number): Promise<void>;
}

export interface Timer {
  cancel(): void;
  /** Does not keep the process alive. */
  unref(): Timer;
}

/** The machine's own time. */
export const systemClock: Clock = {
  now: () => Date.now(),
  elapsed: () => performance.now(),
  after: (ms, work) => timerOf(setTimeout(work, ms), clearTimeout),
  every: (ms, work) => timerOf(setInterval(work, ms), clearInterval),
  pause: (ms) => new Promise((resolve) => setTimeout(resolve, ms)),
};

function timerOf(handle: NodeJS.Timeout, clear: (handle: NodeJS.Timeout) => void): Timer {
  const timer: Timer = {
    cancel: () => clear(handle),
    unref() {
      handle.unref();
      return timer;
    },
  };
  return timer;
}
