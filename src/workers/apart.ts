/**
 * Works through what came from outside in a thread of its own, with an end to time and memory,
 * so that input which costs far more than its size harms nothing but itself.
 */
import { Worker } from 'node:worker_threads';
import type { Clock, Timer } from '../clock/clock';
import type { JobName, Jobs } from './jobs';

/** The input was given up, or the thread with it; `reason` is a sentence for people. */
export class GivenUp extends Error {}

/** It was broken off because the process ends; nothing is wrong with the input. */
export class BrokenOff extends Error {}

export interface Apart {
  /** Does a job. Throws `GivenUp` when it took too long or too much, `BrokenOff` when the process ends. */
  run<Name extends JobName>(name: Name, input: Parameters<Jobs[Name]>[0]): Promise<ReturnType<Jobs[Name]>>;
  /** Breaks off what is under way. */
  close(): void;
}

export interface ApartOptions {
  clock: Clock;
  /** Milliseconds from when the thread is ready. Far above what honest input takes on a slow machine. */
  longest?: number;
  /** MiB. */
  memory?: number;
}

/** @param file the bundle of `workers/main.ts` */
export function createApart(file: string, { clock, longest = 60_000, memory = 512 }: ApartOptions): Apart {
  const under = new Map<Worker, (why: Error) => void>();
  return {
    run: (name, input) =>
      new Promise((resolve, reject) => {
        const worker = new Worker(file, { resourceLimits: { maxOldGenerationSizeMb: memory, stackSizeMb: 4 } });
        let timer: Timer | undefined;
        const end = (settle: () => void) => {
          timer?.cancel();
          under.delete(worker);
          void worker.terminate();
          settle();
        };
        under.set(worker, (why) => end(() => reject(why)));
        worker.on('message', (message) => {
          if (message !== 'ready') return end(() => resolve(message));
          const seconds = Math.round(longest / 1000);
          timer = clock.limit(longest, () =>
            end(() => reject(new GivenUp(`It took longer than ${seconds} s to read and was given up.`))),
          );
          worker.postMessage({ name, input });
        });
        worker.on('error', (error: Error & { code?: string }) =>
          end(() =>
            reject(
              error.code === 'ERR_WORKER_OUT_OF_MEMORY'
                ? new GivenUp(`It took more than ${memory} MiB of memory to read and was given up.`)
                : error,
            ),
          ),
        );
        worker.on('exit', () => end(() => reject(new GivenUp('The thread that read it ended without an answer.'))));
      }),
    close() {
      for (const end of [...under.values()]) end(new BrokenOff('The process ends.'));
    },
  };
}
