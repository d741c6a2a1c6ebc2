/** A thread that reads one input after the other and says how long each took, or what it threw. */
import { parentPort } from 'node:worker_threads';
import { PARSERS } from './parsers';

parentPort?.on('message', ({ parser, inputs }: { parser: string; inputs: Uint8Array[] }) => {
  void (async () => {
    const read = PARSERS.find(({ name }) => name === parser)?.read;
    for (const [index, input] of inputs.entries()) {
      parentPort?.postMessage({ kind: 'begun', index });
      const began = performance.now();
      let threw: string | undefined;
      try {
        await read?.(Buffer.from(input));
      } catch (error) {
        threw = error instanceof Error ? `${error.name}: ${error.message}\n${error.stack ?? ''}` : String(error);
      }
      parentPort?.postMessage({ kind: 'read', index, ms: performance.now() - began, threw });
    }
    parentPort?.postMessage({ kind: 'done' });
  })();
});
parentPort?.postMessage({ kind: 'ready' });
