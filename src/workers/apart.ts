/**
 * Works through what came from outside in a thread of its own, with an end to time and memory,
 * so that input which costs far more than its size harms nothing but itself.
 */

import { Worker } from 'node:worker_threads';
import type { Clock, Timer } from '../clock/clock';
import { NamedError } from '../core/namedError';
import type { JobName, Jobs, PieceOf, ReaderName, Readers, Said, Task } from './jobs';

/** The input was given up, or the thread with it; `reason` is a sentence for people. */
export class GivenUp extends NamedError {
  static override readonly called = 'GivenUp';
}

/** It was broken off because the process ends; nothing is wrong with the input. */
export class BrokenOff extends NamedError {
  static override readonly called = 'BrokenOff';
}

/** What was given is not what it should be; the message is a sentence for people. */
export class Refused extends NamedError {
  static override readonly called = 'Refused';
}

export interface Apart {
  /** Does a job. Throws `Refused`, `GivenUp` when it took too long or too much, `BrokenOff` when the process ends. */
  run<Name extends JobName>(name: Name, input: Parameters<Jobs[Name]>[0]): Promise<Awaited<ReturnType<Jobs[Name]>>>;
  /** Reads an input of any length, piece by piece. Throws the same; whoever stops reading ends the thread. */
  read<Name extends ReaderName>(name: Name, input: Parameters<Readers[Name]>[0]): AsyncGenerator<PieceOf<Name>>;
  /** Breaks off what is under way. */
  close(): void;
}

export interface ApartOptions {
  clock: Clock;
  /** Milliseconds from when the thread is ready, or from when more was asked for. Far above what honest input takes on a slow machine. */
  longest?: number;
  /** MiB. */
  memory?: number;
}

/** @param file the bundle of `workers/main.ts` */
export function createApart(file: string, { clock, longest = 60_000, memory = 512 }: ApartOptions): Apart {
  const under = new Set<(why: Error) => void>();

  /** Tells of everything the thread says, one after the other, until it is ended. */
  async function* hear(task: Task): AsyncGenerator<Exclude<Said, { kind: 'ready' | 'refused' }>> {
    const worker = new Worker(file, { resourceLimits: { maxOldGenerationSizeMb: memory, stackSizeMb: 4 } });
    const heard: Said[] = [];
    let failed: Error | undefined;
    let wake: () => void = () => undefined;
    const fail = (why: Error) => {
      failed ??= why;
      wake();
    };
    under.add(fail);
    worker.on('message', (said: Said) => {
      heard.push(said);
      wake();
    });
    worker.on('error', (error: Error & { code?: string }) =>
      fail(
        error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? new GivenUp(`It took more than ${memory} MiB of memory to read and was given up.`)
          : error,
      ),
    );
    worker.on('exit', () => fail(new GivenUp('It is damaged: reading it came to no end.')));
    let timer: Timer | undefined;
    const patience = () => {
      timer?.cancel();
      const seconds = Math.round(longest / 1000);
      timer = clock.limit(longest, () =>
        fail(new GivenUp(`It took longer than ${seconds} s to read and was given up.`)),
      );
    };
    try {
      for (;;) {
        const said = heard.shift();
        if (!said) {
          if (failed) throw failed;
          await new Promise<void>((resolve) => {
            wake = resolve;
          });
          continue;
        }
        timer?.cancel();
        if (said.kind === 'refused') throw new Refused(said.reason);
        if (said.kind === 'ready') {
          patience();
          worker.postMessage(task);
          continue;
        }
        yield said;
        if (said.kind !== 'pieces') return;
        patience();
        worker.postMessage('more');
      }
    } finally {
      timer?.cancel();
      under.delete(fail);
      void worker.terminate();
    }
  }

  return {
    async run(name, input) {
      for await (const said of hear({ kind: 'job', name, input: input as never }))
        if (said.kind === 'answer') return said.answer as never;
      throw new GivenUp('It is damaged: reading it came to no end.');
    },
    async *read(name, input) {
      for await (const said of hear({ kind: 'reader', name, input: input as never }))
        if (said.kind === 'pieces') yield* said.pieces as never[];
    },
    close() {
      for (const end of [...under]) end(new BrokenOff('The process ends.'));
    },
  };
}
