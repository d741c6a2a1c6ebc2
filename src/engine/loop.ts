/**
 * One piece of the engine's work, done again whenever somebody rings, whenever the work
 * itself asked for it, and at least once a second in case a ring was lost.
 */
import type { AppContext } from '../operations/context';
import type { EngineHealth } from '../operations/workQueue';

export interface Loop {
  ring(): void;
  /** Lets the round in progress end and starts no other. */
  stop(): Promise<void>;
}

const LONGEST_SLEEP = 1000;
const PAUSE_AFTER_FAULT = 1000;

/** `work` answers in how many milliseconds it wants to be called again, or undefined. */
export function startLoop(
  ctx: AppContext,
  name: string,
  work: () => Promise<number | undefined>,
  health: EngineHealth,
): Loop {
  let rung = true;
  let stopping = false;
  let wake: () => void = () => undefined;

  async function run() {
    while (!stopping) {
      rung = false;
      let wish: number | undefined;
      try {
        wish = await work();
        health.noteRound(name);
      } catch (error) {
        ctx.log.error({ err: error, loop: name }, 'a round failed');
        health.noteRound(name, error);
        wish = PAUSE_AFTER_FAULT;
      }
      if (!rung && !stopping) await sleep(Math.min(wish ?? LONGEST_SLEEP, LONGEST_SLEEP));
    }
  }

  function sleep(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = ctx.clock.after(Math.max(0, ms), resolve);
      wake = () => {
        timer.cancel();
        resolve();
      };
    });
  }

  const ended = run();
  return {
    ring() {
      rung = true;
      wake();
    },
    stop() {
      stopping = true;
      wake();
      return ended;
    },
  };
}
