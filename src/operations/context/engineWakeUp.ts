/**
 * Tells the engine that there is work, so that nothing waits for its next look. A ring
 * that is lost costs a little time and nothing else: the engine also looks by itself.
 */
import { createConnection, type Socket } from 'node:net';
import type { Clock } from '../../clock/clock';

export type Work =
  | 'inbound'
  | 'outbox'
  | 'webhooks'
  | 'accounts'
  | 'runs'
  | 'sheets'
  | 'feeds'
  | 'reviews'
  | 'imports'
  | 'replays'
  | 'tests'
  | 'broadcasts';

export interface EngineWakeUp {
  ring(work: Work): void;
  close(): void;
}

export function wakeUpAt(path: string, { elapsed }: Pick<Clock, 'elapsed'>): EngineWakeUp {
  let socket: Socket | undefined;
  let failedAt = Number.NEGATIVE_INFINITY;

  function connected(): Socket | undefined {
    if (socket || elapsed() - failedAt < 500) return socket;
    const opened = createConnection(path);
    opened.unref();
    opened.on('error', () => {
      failedAt = elapsed();
    });
    opened.on('close', () => {
      if (socket === opened) socket = undefined;
    });
    socket = opened;
    return opened;
  }

  return {
    ring(work) {
      connected()?.write(`${work}\n`);
    },
    close() {
      socket?.destroy();
    },
  };
}

/** Whether an engine works on the installation that this wakes. */
export function somebodyListens(path: string): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createConnection(path);
    probe.once('connect', () => {
      probe.destroy();
      resolve(true);
    });
    probe.once('error', () => resolve(false));
  });
}
