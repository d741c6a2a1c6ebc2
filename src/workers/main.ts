/** A thread that does one job and is then thrown away. */
import { parentPort } from 'node:worker_threads';
import { JOBS, type JobName } from './jobs';

parentPort?.once('message', ({ name, input }: { name: JobName; input: never }) => {
  parentPort?.postMessage(JOBS[name](input));
});
parentPort?.postMessage('ready');
