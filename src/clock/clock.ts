/** The one source of time: nothing else in Windgap asks the machine what time it is, or waits by itself. */
export interface Clock {
  /** Epoch milliseconds, as stored and shown. */
  now(): number;
  /** Milliseconds since some moment that stays the same; never goes back, whatever is done to the machine's time. */
  elapsed(): number;
  /** Does something when so many milliseconds have passed by `now`. Returns what calls it off. */
  after(ms: number, work: () => void): Timer;
  /** Gives up on what may hang, when so many milliseconds have passed by `elapsed`. */
  limit(ms: number, work: () => void): Timer;
  /** Does something again and again. Returns what ends it. */
  every(ms: number, work: () => void): Timer;
  pause(ms: number): Promise<void>;
  /** Milliseconds by which it was moved ahead of the machine's time: not 0 at a bench only. */
  ahead(): number;
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
  limit: (ms, work) => timerOf(setTimeout(work, ms), clearTimeout),
  every: (ms, work) => timerOf(setInterval(work, ms), clearInterval),
  pause: (ms) => new Promise((resolve) => setTimeout(resolve, ms)),
  ahead: () => 0,
};

/** Epoch milliseconds, whole ones, that go on from `now` as time passes here: a server's time in a browser. */
export function runningFrom(now: number): () => number {
  const began = systemClock.elapsed();
  return () => Math.floor(now + systemClock.elapsed() - began);
}

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
