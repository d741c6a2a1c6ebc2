/** Where claimed texts of one channel wait for their turn: so many at once, so many a second, those to many behind those to one. */
import type { Clock, Timer } from '../clock/clock';
import { bulkAtOnce, bulkPace, queueUp } from '../core/pacing/bulk';
import { askedAhead, createLastLook } from '../core/pacing/lastLook';
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
  /**
   * How many to claim now: none while nothing stands idle and it would be for few, as each claim costs a commit. For what
   * is no bulk, bulk that waits takes no room.
   */
  room(bulk?: boolean): number;
  /** Pushed and not sent yet. */
  readonly waiting: number;
  push(jobs: readonly Job[]): void;
  /** Takes back what has not been sent yet. */
  withdraw(): Job[];
  /** Settles when everything pushed has been sent and noted. */
  drained(): Promise<void>;
}

interface Manners<Job> {
  /** What yields to all that is not. */
  isBulk?(job: Job): boolean;
  /** Asked when its turn has come; where it says no, the job is gone and nothing is sent. */
  stillLeaves?(job: Job): Promise<boolean>;
}

/** A question that failed is asked again after so many milliseconds. */
const ASK_AGAIN = 200;

/** `send` settles when the answer is there; it must not reject. */
export function createChannelQueue<Job extends object>(
  limits: ChannelQueueLimits,
  clock: Clock,
  send: (job: Job) => Promise<void>,
  { isBulk = () => false, stillLeaves }: Manners<Job> = {},
): ChannelQueue<Job> {
  const rateLimiter = newRateLimiter();
  const ofBulk = newRateLimiter();
  const waiting: Job[] = [];
  const sleepers: (() => void)[] = [];
  let inFlight = 0;
  let bulkInFlight = 0;
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

  const lastLook =
    stillLeaves &&
    createLastLook(clock.elapsed, stillLeaves, (job, leaves) => {
      if (leaves === undefined) {
        timer?.cancel();
        timer = clock.after(ASK_AGAIN, pump);
        return;
      }
      const place = leaves ? -1 : waiting.indexOf(job);
      if (place >= 0) waiting.splice(place, 1);
      pump();
      wakeIfDrained();
    });

  function room(bulk = true): number {
    const held = bulk
      ? inFlight + waiting.length
      : inFlight - bulkInFlight + waiting.filter((job) => !isBulk(job)).length;
    const most = channelQueue.limits.atOnce + channelQueue.limits.ahead;
    return held < channelQueue.limits.atOnce || held <= most / 2 ? most - held : 0;
  }

  function push(jobs: readonly Job[]) {
    for (const job of jobs) queueUp(waiting, job, isBulk);
    pump();
  }

  function pump() {
    timer?.cancel();
    while (waiting.length > 0 && inFlight < channelQueue.limits.atOnce) {
      const bulk = isBulk(waiting[0] as Job);
      if (bulk && bulkInFlight >= bulkAtOnce(channelQueue.limits.atOnce)) return;
      const waitMs = untilTurn(bulk);
      if (waitMs > 0) {
        timer = clock.after(Math.max(1, waitMs), pump);
        return;
      }
      if (lastLook && !lastLook.isSure(waiting[0] as Job)) {
        lastLook.at(waiting.slice(0, askedAhead(channelQueue.limits.pace ?? 1)));
        return;
      }
      takeTurn(bulk);
      void start(waiting.shift() as Job, bulk);
    }
  }

  /** How long there is no turn; 0 where there is one now. */
  function untilTurn(bulk: boolean): number {
    const { pace } = channelQueue.limits;
    if (pace === undefined) return 0;
    const now = clock.elapsed();
    const ofAll = take(rateLimiter, pace, 0, now).waitMs;
    return bulk ? Math.max(ofAll, take(ofBulk, bulkPace(pace), 0, now).waitMs) : ofAll;
  }

  function takeTurn(bulk: boolean) {
    const { pace } = channelQueue.limits;
    if (pace === undefined) return;
    take(rateLimiter, pace, 1, clock.elapsed());
    if (bulk) take(ofBulk, bulkPace(pace), 1, clock.elapsed());
  }

  async function start(job: Job, bulk: boolean) {
    inFlight += 1;
    if (bulk) bulkInFlight += 1;
    const sending = send(job);
    if (channelQueue.limits.pace !== undefined) {
      noteUsed(rateLimiter, clock.elapsed());
      if (bulk) noteUsed(ofBulk, clock.elapsed());
    }
    await sending;
    inFlight -= 1;
    if (bulk) bulkInFlight -= 1;
    pump();
    wakeIfDrained();
  }

  function wakeIfDrained() {
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
