/** Where claimed texts of one channel wait for their turn: so many at once, so many a second. */
import type { Clock, Timer } from '../clock/clock';
import { newRateLimiter, noteUsed, take } from '../core/pacing/rateLimiter';

export interface ChannelQueueLimits {
  /** Sends without an answer yet. */
  atOnce: number;
  /** Sends a second; absent where somebody further on holds the pace. */
  pace?: number;
  /** How many may be claimed beyond those, so that no turn is missed while more are claimed. */
  ahead: number;
}

export interface ChannelQueue<Job> {
  limits: ChannelQueueLimits;
  /** How many to claim now: none while nothing stands idle and it would be for few, as each claim costs a commit. */
  room(): number;
  /** Pushed and not sent yet. */
  readonly waiting: number;
  push(jobs: readonly Job[]): void;
  /** Takes back what has not been sent yet. */
  withdraw(): Job[];
  /** Settles when everything pushed has been sent and noted. */
  drained(): Promise<void>;
}

/** `send` settles when the answer is there; it must not reject. */
export function createChannelQueue<Job>(
  limits: ChannelQueueLimits,
  clock: Clock,
  send: (job: Job) => Promise<void>,
): ChannelQueue<Job> {
  const rateLimiter = newRateLimiter();
  const waiting: Job[] = [];
  const sleepers: (() => void)[] = [];
  let inFlight = 0;
  let timer: Timer | undefined;
  const channelQueue: ChannelQueue<Job> = {
    limits,
    room,
    get waiting() {
      return waiting.length;
    },
    push,
    withdraw: () => waiting.splice(0),
    drained,
  };

  function room(): number {
    const held = inFlight + waiting.length;
    const most = channelQueue.limits.atOnce + channelQueue.limits.ahead;
    return held < channelQueue.limits.atOnce || held <= most / 2 ? most - held : 0;
  }

  function push(jobs: readonly Job[]) {
    waiting.push(...jobs);
    pump();
  }

  function pump() {
    timer?.cancel();
    while (waiting.length > 0 && inFlight < channelQueue.limits.atOnce) {
      if (channelQueue.limits.pace !== undefined) {
        const { granted, waitMs } = take(rateLimiter, channelQueue.limits.pace, 1, clock.elapsed());
        if (granted === 0) {
          timer = clock.after(Math.max(1, waitMs), pump);
          return;
        }
      }
      void start(waiting.shift() as Job);
    }
  }

  async function start(job: Job) {
    inFlight += 1;
    const sending = send(job);
    if (channelQueue.limits.pace !== undefined) noteUsed(rateLimiter, clock.elapsed());
    await sending;
    inFlight -= 1;
    pump();
    if (inFlight === 0 && waiting.length === 0) for (const wake of sleepers.splice(0)) wake();
  }

  function drained(): Promise<void> {
    return inFlight === 0 && waiting.length === 0
      ? Promise.resolve()
      : new Promise((resolve) => {
          sleepers.push(resolve);
        });
  }

  return channelQueue;
}
